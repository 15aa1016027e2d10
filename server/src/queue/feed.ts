import pg from 'pg';

/** Tells of every change of a job, as long as somebody listens. */
export class JobFeed {
  private readonly listeners = new Set<(id: string | null) => void>();
  private readonly enders = new Set<() => void>();
  private client: pg.Client | null = null;
  private again: ReturnType<typeof setTimeout> | undefined;
  private closed = false;

  constructor(private readonly url: string) {}

  /**
   * Calls with the id of each job that changes; with null when changes may have been missed. `end` is called when there
   * will be no more of them.
   */
  subscribe(listener: (id: string | null) => void, end: () => void): () => void {
    this.listeners.add(listener);
    this.enders.add(end);
    if (!this.client && !this.again) void this.connect();
    return () => {
      this.listeners.delete(listener);
      this.enders.delete(end);
    };
  }

  async close(): Promise<void> {
    this.closed = true;
    clearTimeout(this.again);
    for (const end of this.enders) end();
    await this.client?.end().catch(() => undefined);
  }

  private tell(id: string | null): void {
    for (const listener of this.listeners) listener(id);
  }

  private async connect(): Promise<void> {
    this.again = undefined;
    const client = new pg.Client({ connectionString: this.url });
    this.client = client;
    const lost = () => {
      if (this.client !== client || this.closed) return;
      this.client = null;
      this.again = setTimeout(() => void this.connect(), 1000);
    };
    client.on('error', lost);
    client.on('end', lost);
    client.on('notification', ({ payload }) => payload && this.tell(payload));
    try {
      await client.connect();
      await client.query('listen oscillum_jobs');
      this.tell(null);
    } catch {
      lost();
    }
  }
}
