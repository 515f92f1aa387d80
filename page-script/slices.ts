/** Longest time in a row, in milliseconds: what is changed in it is drawn before more is. */
const longestSlice = 4;
let until = 0;

/** Waits until the page has answered and drawn itself. */
export const nextFrame = async (): Promise<void> => {
  await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)));
  until = performance.now() + longestSlice;
};

/** Takes steps until there are no more, and lets the page go on in between. */
export const inSlices = async (step: () => boolean): Promise<void> => {
  while (step()) if (performance.now() > until) await nextFrame();
};
