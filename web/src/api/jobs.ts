import { useEffect, useState } from 'react';
import { Job } from '@oscillum/core/contract';
import { addressOf, call, CallError } from './http';

/** The queue's jobs, newest first, as they change; and what keeps them from being known. */
export function useJobs(): { jobs: readonly Job[]; trouble: string | null } {
  const [jobs, setJobs] = useState<readonly Job[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    const put = (job: Job) =>
      setJobs((list) =>
        list.some((j) => j.id === job.id) ? list.map((j) => (j.id === job.id ? job : j)) : [job, ...list],
      );
    const all = () =>
      call('listJobs')
        .then((list) => {
          if (gone) return;
          setJobs(list);
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
