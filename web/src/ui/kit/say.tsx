import { randomId } from '../../api/ids';
import type { Failure } from '../../api/library';
import { WorkError } from '../../sim/asks';
import { sentenceOf } from '../../state/edits';
import { notifications } from '@mantine/notifications';

/** A short message at the foot of the page; with an undo when there is one. */
export function say(text: string, undo?: { label: string; run: () => void }): void {
  const id = randomId();
  notifications.show({
    id,
    message: (
      <span>
        {text}{' '}
        {undo && (
          <button
            className="plain"
            style={{ color: 'var(--verdigris)', fontWeight: 650 }}
            onClick={() => {
              notifications.hide(id);
              undo.run();
            }}
          >
            {undo.label}
          </button>
        )}
      </span>
    ),
    autoClose: undo ? 9000 : 6000,
    color: 'verdigris',
  });
}

/** Something failed: what, and what to do. It stays until it is closed. */
export function sayTrouble(text: string): void {
  notifications.show({ message: text, color: 'red', autoClose: false });
}

/** What went wrong with work of the worker or the server, in a sentence. */
export function sentenceOfAny(e: unknown): string {
  if (e instanceof WorkError) return e.trouble.sentence;
  return e instanceof Error ? sentenceOf(e) : `${(e as Failure).message} ${(e as Failure).remedy}`;
}
