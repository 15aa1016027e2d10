import { applyClothPreset, CLOTH_PRESETS, type ClothPart, type PanelPart } from '@oscillum/core/cloth';
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

/** Changes some cloths and panels as one edit. */
export const changeSheets = (
  ids: readonly string[],
  name: string,
  recipe: (p: ClothPart | PanelPart) => void,
): Thunk =>
  change(name, (d) => {
    for (const id of ids) {
      const part = d.parts[id];
      if (part?.kind === 'cloth' || part?.kind === 'panel') recipe(part);
    }
  });

export const putClothPreset = (ids: readonly string[], preset: (typeof CLOTH_PRESETS)[number]): Thunk =>
  changeSheets(ids, `Preset ${preset.name}`, (p) => applyClothPreset(p, preset));
