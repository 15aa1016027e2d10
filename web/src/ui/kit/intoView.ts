/** As a `ref` of what is opened from elsewhere, such as the stage: scrolls it into sight. */
export const intoView = (element: HTMLElement | null): void => element?.scrollIntoView({ block: 'nearest' });
