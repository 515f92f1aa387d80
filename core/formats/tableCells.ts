import type { Grid } from './findTable.ts';

/** What a program wrote as a value, as the text of a cell. */
export const cellText = (cell: unknown): string => {
  if (cell === null || cell === undefined) return '';
  // A date cell of a spreadsheet knows no zone; its clock is written as it shows there. Its fraction of a day is seldom a whole
  // second, and a time alone is the fraction of no day.
  if (cell instanceof Date) {
    const [day = '', clock = ''] = new Date(Math.round(cell.getTime() / 1000) * 1000)
      .toISOString()
      .slice(0, 19)
      .split('T');
    return cell.getUTCFullYear() < 1905 ? clock : clock === '00:00:00' ? day : `${day} ${clock}`;
  }
  // What was computed ends in digits nobody means; and three decimals might be taken for thousands.
  if (typeof cell === 'number') {
    const text = String(Number(cell.toPrecision(15)));
    return /^-?\d+\.\d{3}$/.test(text) ? `${text}0` : text;
  }
  return String(cell);
};

/** Lines of cells with their numbers, without those that are empty. */
export const gridOf = (all: readonly (readonly string[])[]): Grid => {
  const filled = all
    .map((cells, i) => ({ cells, line: i + 1 }))
    .filter(({ cells }) => cells.some((cell) => cell.trim() !== ''));
  return { rows: filled.map(({ cells }) => cells), lines: filled.map(({ line }) => line) };
};
