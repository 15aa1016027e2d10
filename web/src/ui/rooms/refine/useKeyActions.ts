import type { CopiedKey, Refinement } from '@oscillum/core/model';
import { channelKey, copyKeys, keysOf, mirrorKeys, plainFrame } from '@oscillum/core/refine';
import { otherSide } from '../../../state/otherSide';
import { useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { say, sayTrouble } from '../../kit/say';
import { keyStep, type RefineDesk } from './refineDesk';

/** What can be done to keys by a press of a button or a key of the keyboard. `commit` makes a step an edit. */
export function useKeyActions(desk: RefineDesk, commit: (step: Refinement) => void) {
  const { character } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const { nodes, path, now, ground, chosen, setChosen } = desk;
  const layNow = (step: Refinement | null) => step && commit(step);
  const insertAt = (f: number) => {
    const chosenThen = Object.fromEntries(nodes.map((n) => [channelKey(n, path), [f]]));
    const step = keyStep(desk, 'Insert', () => ({ tool: 'insert', frames: [f] }), chosenThen);
    if (!step) return;
    commit(step);
    setChosen(chosenThen);
  };
  const remove = () => {
    layNow(keyStep(desk, 'Delete', (keys) => ({ tool: 'delete', keys })));
    setChosen({});
  };
  const copy = () => {
    const frames = Object.values(chosen).flat();
    if (frames.length === 0) return;
    const start = frames.reduce((a, b) => Math.min(a, b));
    const keys = new Map<number, readonly CopiedKey[]>();
    for (const node of nodes) {
      const key = channelKey(node, path);
      const c = now.get(key);
      const mine = chosen[key] ?? [];
      if (!c || mine.length === 0) continue;
      const picked = keysOf(c, ground).filter((k) => mine.includes(plainFrame(k.frame)));
      if (picked.length > 0) keys.set(node, copyKeys(picked, start));
    }
    desk.setCopied({ path, keys });
    say(`${frames.length === 1 ? 'A key' : `${frames.length} keys`} copied.`);
  };
  const paste = (mirrored: boolean) => {
    if (!desk.copied || desk.copied.path !== path) return;
    const to = new Map<number, readonly CopiedKey[]>();
    const missed: string[] = [];
    const { metresPerUnit, upAxis } = shot.character;
    for (const [node, keys] of desk.copied.keys) {
      const name = mirrored ? otherSide(desk.nameOf(node)) : desk.nameOf(node);
      const target = mirrored ? character.nodes.findIndex((n) => n.name === name) : node;
      if (target < 0 || !now.has(channelKey(target, path))) missed.push(desk.nameOf(node));
      else if (!mirrored) to.set(target, keys);
      else to.set(target, mirrorKeys(keys, path, character, node, target, metresPerUnit, upAxis));
    }
    if (missed.length) sayTrouble(`No other side with curves for ${missed.slice(0, 6).join(', ')}.`);
    if (to.size === 0) return;
    const frames = [...to.values()].flat().map((k) => k.after);
    const last = frame + frames.reduce((a, b) => Math.max(a, b));
    const step = keyStep(
      { ...desk, nodes: [...to.keys()] },
      mirrored ? 'Paste mirrored' : 'Paste',
      () => ({ tool: 'paste', at: frame, keys: [...to.values()].map((k) => [...k]) }),
      Object.fromEntries([...to].map(([n, k]) => [channelKey(n, path), k.map((x) => frame + x.after)])),
    );
    if (step) commit({ ...step, first: frame, last });
  };
  const nudge = (frames: number, by: number, component: number) => {
    layNow(keyStep(desk, 'Move', (keys) => ({ tool: 'move', keys, frames, by, component })));
  };
  const slopes = (kind: 'auto' | 'flat' | 'straight') =>
    layNow(
      keyStep(desk, { auto: 'Smooth', flat: 'Flatten', straight: 'Straighten' }[kind], (keys) => ({
        tool: 'slope',
        keys,
        kind,
      })),
    );
  return { insertAt, remove, copy, paste, nudge, slopes };
}
