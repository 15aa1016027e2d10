/** A PostgreSQL server of our own; see postgres.mjs. */
export function startCluster(
  folder: string,
  options?: { throwaway?: boolean },
): Promise<{ url: string; restart: () => Promise<number>; stop: () => void }>;
