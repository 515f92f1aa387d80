/** Lets the screen draw and answer before long work goes on. */
export const screenTurn = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));
