import { applyClothPreset, CLOTH_PRESETS, type ClothPart } from '@oscillum/core/cloth';
import { change } from '../../edits';
import type { Thunk } from '../../store';

/** Changes some cloths as one edit. */
export const changeCloths = (ids: readonly string[], name: string, recipe: (p: ClothPart) => void): Thunk =>
  change(name, (d) => {
    for (const id of ids) {
      const part = d.parts[id];
      if (part?.kind === 'cloth') recipe(part);
    }
  });

export const putClothPreset = (ids: readonly string[], preset: (typeof CLOTH_PRESETS)[number]): Thunk =>
  changeCloths(ids, `Preset ${preset.name}`, (p) => applyClothPreset(p, preset));
