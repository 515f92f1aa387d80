/** Longest time in a row, in milliseconds, in which a reader's press would not be answered. */
const longestSlice = 8;

/** Takes steps until there are no more, and lets the page go on in between. */
export const inSlices = async (step: () => boolean): Promise<void> => {
  let until = performance.now() + longestSlice;
  while (step()) {
    if (performance.now() < until) continue;
    await new Promise((resolve) => setTimeout(resolve));
    until = performance.now() + longestSlice;
  }
};
