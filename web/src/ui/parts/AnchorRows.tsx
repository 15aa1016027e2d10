import type { ReactNode } from 'react';
import type { Part } from '@oscillum/core/shot';
import { change, toggleAnchor } from '../../state/edits';
import type { PanelProps } from './kind';
import { ListText, items } from '../kit/ListText';

interface Props extends Pick<PanelProps<Part>, 'run'> {
  readonly parts: readonly Part[];
  /** More ways to make one, and those that are made so. */
  readonly presses?: ReactNode;
  readonly children?: ReactNode;
}

/** Frames at which parts of any kind meet their source. */
export function AnchorRows({ parts, run, presses, children }: Props) {
  const ids = parts.map((p) => p.id);
  const at = parts[0]!.anchors.filter((a) => a.turns === null);
  return (
    <>
      <h3>Anchor poses</h3>
      <div className="presses">
        {presses}
        <button
          className="mini"
          title="Meets its source exactly on this frame (P); drag the mark in its lane to move it"
          onClick={() =>
            run((dispatch, getState) => {
              dispatch(toggleAnchor(ids, Math.round(getState().view.frame)));
            })
          }
        >
          match the source here
        </button>
      </div>
      {children}
      <ListText
        label="Anchor poses"
        says="Frames at which it meets its source exactly, with frames to ease in and out: 0:0/8, 96:8/8"
        value={at.map((a) => `${a.frame}:${a.easeIn}/${a.easeOut}`).join(', ')}
        read={(text) => {
          const anchors = items(text).map((t) => {
            const m = /^(-?\d+)(?::([\d.]+)(?:\/([\d.]+))?)?$/.exec(t);
            if (!m) throw new Error('Write a frame, or frame:ease in/ease out.');
            const easeIn = Number(m[2] ?? 8);
            return { frame: Number(m[1]), easeIn, easeOut: Number(m[3] ?? easeIn), hold: 0, turns: null };
          });
          run(
            change('Set anchor poses', (d) => {
              for (const id of ids) {
                const p = d.parts[id]!;
                p.anchors = [...p.anchors.filter((a) => a.turns !== null), ...anchors];
              }
            }),
          );
        }}
      />
    </>
  );
}
