/** What hair is drawn from, for the stage and for what grows it. */
export { growGuides } from './grow';
export { layOutStrands, type StrandsLayout } from './layout';
export { DRAWN_POINTS, layLook, planLook, type LookPlan } from './look';
export { posedGroom } from './source';
