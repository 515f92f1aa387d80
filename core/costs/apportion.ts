/**
 * Rounds numbers so that they add up to their rounded sum: each down, and those that lost most by it one up (largest remainders). Where
 * each is rounded by itself, the cents of a table do not add up to its last line.
 *
 * @returns whole numbers in the same order, each less than one away from its own
 */
export const apportion = (numbers: readonly number[]): number[] => {
  const total = Math.round(numbers.reduce((sum, number) => sum + number, 0));
  const whole = numbers.map(Math.floor);
  const lacking = total - whole.reduce((sum, number) => sum + number, 0);
  const byLoss = numbers
    .map((number, i) => ({ i, up: Math.floor(number) + 1, loss: number - Math.floor(number) }))
    .sort((a, b) => b.loss - a.loss || a.i - b.i);
  for (const { i, up } of byLoss.slice(0, lacking)) whole[i] = up;
  return whole;
};
