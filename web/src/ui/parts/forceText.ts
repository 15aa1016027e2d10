/** A force in N, in so many figures as an animator reads. */
export const forceText = (newtons: number): string => `${Number(newtons.toPrecision(2))} N`;
