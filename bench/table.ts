/** One line of a bench: its values, and what they must not exceed where anything is asked of them. */
export interface Measured {
  readonly what: string;
  readonly values: readonly number[];
  readonly most?: number;
  readonly least?: number;
}

const two = (value: number) => value.toFixed(2);

/** Prints medians with their spread, and whether each is within what is wanted. */
export const printTable = (title: string, rows: readonly Measured[]): void => {
  console.log(`\n${title}\n`);
  console.log('| what | median | spread | wanted | met |\n| --- | ---: | --- | --- | --- |');
  for (const { what, values, most, least } of rows) {
    const sorted = [...values].sort((a, b) => a - b);
    const median = sorted[Math.floor(sorted.length / 2)] ?? 0;
    const spread = sorted.length > 1 ? `${two(sorted[0] ?? 0)} to ${two(sorted.at(-1) ?? 0)}` : '';
    const wanted =
      most !== undefined ? `at most ${most}` : least !== undefined ? `at least ${least}` : 'reported';
    const isMet = median <= (most ?? Infinity) && median >= (least ?? -Infinity);
    console.log(
      `| ${what} | ${two(median)} | ${spread} | ${wanted} | ${wanted === 'reported' ? '' : isMet ? 'yes' : 'no'} |`,
    );
  }
};
