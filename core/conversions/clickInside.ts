import type { ClickPlace } from '#core/catalogue';
import { isUlidBeginning, ulidTime } from '#core/catalogue';

/** Signs that stand between a click ID and what a network or a person put beside it. */
const signs = ['|', '_', '-', ':', ';', ',', '.', '~', '/', ' '];
/** As many characters at least as a click ID that was cut short is known by. */
const fewest = 12;
/** Click IDs carry their time; before this nothing of ours was made. */
const earliest = Date.UTC(2020, 0, 1);
const latest = Date.UTC(2100, 0, 1);

/** True for a text that can only be a click ID of ours, or the beginning of one. */
const isClick = (text: string): boolean => {
  if (text.length < fewest || text.length > 26 || !isUlidBeginning(text)) return false;
  const at = ulidTime(text);
  return at !== undefined && at >= earliest && at < latest && /\d/.test(text);
};

/** So many of the filled cells have to hold an ID in the same place for a pattern to be proposed. */
const mostly = 0.6;

/** The piece of a cell in which a click ID stands: the cell itself where it does not have that many pieces. */
export const clickAt = (cell: string, place: ClickPlace | undefined): string => {
  if (place === undefined) return cell;
  const pieces = cell.split(place.by);
  const piece = pieces[place.from === 'start' ? place.at : pieces.length - 1 - place.at];
  return pieces.length === 1 || piece === undefined ? cell : piece.trim();
};

/**
 * Where click IDs stand inside longer values, such as `label|ID`, `ID_label` or `ID-2`, found from samples; undefined where
 * they stand alone, or nowhere.
 */
export const clickPlace = (cells: readonly string[]): ClickPlace | undefined => {
  const filled = cells.map((cell) => cell.trim()).filter((cell) => cell !== '');
  if (filled.length === 0 || filled.filter(isClick).length >= filled.length * mostly) return undefined;
  const times = new Map<string, { place: ClickPlace; count: number }>();
  for (const cell of filled)
    for (const by of signs) {
      const pieces = cell.split(by);
      if (pieces.length < 2) continue;
      for (const [i, piece] of pieces.entries()) {
        if (!isClick(piece.trim())) continue;
        for (const place of [
          { by, from: 'start', at: i },
          { by, from: 'end', at: pieces.length - 1 - i },
        ] as const) {
          if (place.at > 9) continue;
          const key = JSON.stringify(place);
          const before = times.get(key);
          times.set(key, { place, count: (before?.count ?? 0) + 1 });
        }
      }
    }
  const [best] = [...times.values()].toSorted((a, b) => b.count - a.count || a.place.at - b.place.at);
  return best !== undefined && best.count >= filled.length * mostly ? best.place : undefined;
};

/** True for a column in which most filled cells are click IDs, or hold one in the same place. */
export const holdsClicks = (cells: readonly string[]): boolean => {
  const filled = cells.filter((cell) => cell.trim() !== '');
  if (filled.length === 0) return false;
  return (
    filled.filter((cell) => isClick(cell.trim())).length > filled.length * mostly ||
    clickPlace(filled) !== undefined
  );
};
