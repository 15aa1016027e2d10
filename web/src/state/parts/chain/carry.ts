import { randomId } from '../../../api/ids';
import { PartId, type SettingGroup } from '@oscillum/core/model';
import { isChain, applyPreset, makeChainPart, type Preset } from '@oscillum/core/chain';
import { partsInOrder } from '@oscillum/core/shot';
import { change, preview, type Recipe } from '../../edits';
import { otherSide } from '../../otherSide';
import type { Thunk } from '../../store';

const count = (ids: readonly string[]) => (ids.length === 1 ? 'chain' : `${ids.length} chains`);

/** Puts a preset on parts, all of it or some of its groups; shows it only while it is not final. */
export function putPreset(
  ids: readonly string[],
  preset: Preset,
  groups: readonly SettingGroup[],
  final = true,
): Thunk {
  const recipe: Recipe = (d) =>
    ids.forEach((id) => {
      const part = d.parts[id];
      if (isChain(part)) applyPreset(part, preset, groups);
    });
  return final ? change(`${preset.name} on ${count(ids)}`, recipe) : preview(recipe);
}

/**
 * Gives the other side of the body the same settings: the chain on the joints of the other side's names gets them, made
 * if there is none. Returns the names for which there was no other side.
 */
export function mirrorParts(
  ids: readonly string[],
  nodes: readonly { readonly name: string }[],
): Thunk<string[]> {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return [];
    const missed: string[] = [];
    const last = partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1);
    dispatch(
      change(`Mirror ${count(ids)}`, (d) => {
        ids.forEach((id, i) => {
          const part = shot.parts[id];
          if (!isChain(part)) return;
          const joints = part.joints.map((j) => {
            const name = otherSide(j.name);
            const node = name === null ? -1 : nodes.findIndex((n) => n.name === name);
            return { node, name: name ?? '' };
          });
          if (joints.some((j) => j.node < 0)) return void missed.push(part.name);
          const first = joints[0]!.node;
          const there = Object.values(d.parts)
            .filter(isChain)
            .find((p) => p.joints.some((j) => j.node === first));
          const { settings, profiles, keys, staysInPlane, overlapFrom, collidesWith, pullsParent } =
            structuredClone(part);
          // A pose by hand is of this side: its turns would be others over there.
          const anchors = part.anchors.filter((a) => a.turns === null);
          const same = {
            settings,
            profiles,
            keys,
            staysInPlane,
            overlapFrom,
            collidesWith,
            pullsParent,
            anchors,
          };
          if (there) Object.assign(there, same);
          else {
            const fresh = PartId.parse(`p${randomId(8)}`);
            d.parts[fresh] = makeChainPart({
              id: fresh,
              name: otherSide(part.name) ?? `${part.name}, other side`,
              order: last + 1 + i,
              joints,
              ...same,
            });
          }
        });
      }),
    );
    return missed;
  };
}
