import { fork, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { OscillumError } from '@oscillum/core/model';

/** A file in question. */
export interface Question {
  path: string;
  fileName: string;
}

export interface Found {
  joints: number;
  clips: { name: string; duration: number }[];
  unit: { metres: number; why: string };
}

/** What is wrong with a file; without a code when the fault is ours. */
export interface Fault {
  code: OscillumError['code'] | null;
  message: string;
  place: string;
  remedy: string;
}

/** What the reading process says of it. */
export type Answer = { found: Found } | { fault: Fault };

const READ_MS = 120_000;

let reader: ChildProcess | null = null;
let before: Promise<unknown> = Promise.resolve();

/**
 * Joints and clips of a character file, read in a process of its own, one file after another. Throws what is wrong
 * with the file as OscillumError('file.*'); also when it takes longer than two minutes or more memory than there is.
 */
export function readCharacter(path: string, fileName: string): Promise<Found> {
  const mine = before.then(() => ask({ path, fileName }));
  before = mine.catch(() => undefined);
  return mine;
}

async function ask(question: Question): Promise<Found> {
  const child = reader?.connected ? reader : (reader = begin());
  const tooMuch = (what: string) =>
    new OscillumError(
      'file.too-large',
      `${question.fileName}: ${what}`,
      '',
      'Leave out what is not needed, or split the file.',
    );
  const answer = await new Promise<Answer>((resolve, reject) => {
    const done = (settle: () => void) => {
      clearTimeout(late);
      for (const event of ['message', 'error', 'exit']) child.removeAllListeners(event);
      settle();
    };
    const lost = (e: Error) => {
      reader = null;
      child.kill('SIGKILL');
      done(() => reject(e));
    };
    const late = setTimeout(() => lost(tooMuch(`takes longer than ${READ_MS / 1000} s to read`)), READ_MS);
    child.once('message', (a: Answer) => done(() => resolve(a)));
    child.once('error', lost);
    child.once('exit', () => lost(tooMuch('cannot be read in the memory there is')));
    child.send(question);
  });
  if ('found' in answer) return answer.found;
  const { fault } = answer;
  if (fault.code === null) throw new Error(fault.message);
  throw new OscillumError(fault.code, fault.message, fault.place, fault.remedy);
}

function begin(): ChildProcess {
  const child = fork(fileURLToPath(new URL('./reader.ts', import.meta.url)), {
    execArgv: ['--import', 'tsx'],
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  // An idle one keeps nobody running; it ends with us.
  child.unref();
  child.channel?.unref();
  return child;
}
