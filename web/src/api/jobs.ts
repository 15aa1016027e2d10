import { useEffect, useState } from 'react';
import { Job } from '@oscillum/core/contract';
import { addressOf, call, CallError } from './http';

const later = (known: Job | undefined, job: Job): Job =>
  known && known.updatedAt > job.updatedAt ? known : job;

/** A list that was asked for, where what is known of a job since is newer. */
export const mergeList = (known: readonly Job[], list: readonly Job[]): Job[] =>
  list.map((job) =>
    later(
      known.find((k) => k.id === job.id),
      job,
    ),
  );

/** One job that was told of, in the list of those that are known. */
export const mergeOne = (known: readonly Job[], job: Job): Job[] =>
  known.some((k) => k.id === job.id)
    ? known.map((k) => (k.id === job.id ? later(k, job) : k))
    : [job, ...known];

/** The queue's jobs, newest first, as they change; and what keeps them from being known. */
export function useJobs(): { jobs: readonly Job[]; trouble: string | null } {
  const [jobs, setJobs] = useState<readonly Job[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    const put = (job: Job) => setJobs((known) => mergeOne(known, job));
    const all = () =>
      call('listJobs')
        .then((list) => {
          if (gone) return;
          setJobs((known) => mergeList(known, list));
          setTrouble(null);
        })
        .catch((e: unknown) => !gone && setTrouble(e instanceof CallError ? e.message : String(e)));
    const events = new EventSource(addressOf('watchJobs'));
    // Also after the connection was lost: what changed meanwhile is in the list.
    events.addEventListener('open', () => void all());
    events.addEventListener('error', () =>
      setTrouble('The server does not answer; the queue goes on there.'),
    );
    events.addEventListener('job', (e: MessageEvent<string>) => put(Job.parse(JSON.parse(e.data))));
    return () => {
      gone = true;
      events.close();
    };
  }, []);
  return { jobs, trouble };
}
