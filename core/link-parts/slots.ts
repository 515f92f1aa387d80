import type { Account, Network, Slot } from '#core/catalogue';
import { placeTitle } from './places.ts';

const forms: Readonly<Record<Slot['allowed'], RegExp>> = {
  any: /^[\s\S]*$/,
  word: /^[A-Za-z0-9_-]*$/,
  alphanumeric: /^[A-Za-z0-9]*$/,
  digits: /^[0-9]*$/,
};
const formWords: Readonly<Record<Slot['allowed'], string>> = {
  any: 'anything',
  word: 'letters, digits, - and _',
  alphanumeric: 'letters and digits',
  digits: 'digits',
};

/** The fewest characters of a click ID that still point to one click. */
const fewestClickCharacters = 12;

/** What becomes of a value in a slot that does not take it as it is. */
export interface SlotLoss {
  /** A plain sentence: what is lost and what that means. */
  readonly message: string;
  /** What would arrive. */
  readonly arrives: string;
  /** True when nothing could be matched any more. */
  readonly fatal: boolean;
}

const through = (slot: Slot, value: string): string =>
  Array.from(value)
    .filter((letter) => forms[slot.allowed].test(letter))
    .join('')
    .slice(0, slot.length);

/** Says what a slot would make of a value; undefined when it arrives whole. `{click}` stands for a click ID. */
export const slotLoss = (slot: Slot, value: string): SlotLoss | undefined => {
  const isClick = value === '{click}';
  const sent = isClick ? '01M84BDPSKXE4HN0RD2V6W3PBC' : value.replaceAll(/\{[a-z]+\}/g, '');
  const arrives = through(slot, sent);
  if (arrives === sent) return undefined;
  if (!forms[slot.allowed].test(sent))
    return {
      arrives,
      fatal: isClick,
      message: isClick
        ? `${placeTitle(slot.name)} takes only ${formWords[slot.allowed]}, so a click ID would not arrive and nothing could be matched. Use another slot.`
        : `${placeTitle(slot.name)} takes only ${formWords[slot.allowed]}: “${arrives}” would arrive.`,
    };
  const lost = sent.length - arrives.length;
  const which = `The last ${lost} of ${sent.length} characters would be lost`;
  if (!isClick) return { arrives, fatal: false, message: `${which}: “${arrives}” would arrive.` };
  return arrives.length >= fewestClickCharacters
    ? { arrives, fatal: false, message: `${which}; the match still works from the first ${arrives.length}.` }
    : {
        arrives,
        fatal: true,
        message: `${which}, and ${arrives.length} are too few to tell one click from another. Use another slot.`,
      };
};

/** One label and what is wrong with it. */
export interface LabelProblem {
  readonly slot: string;
  readonly message: string;
  /** It may not be saved like this. */
  readonly refused: boolean;
}

/**
 * Checks labels against the slots of a network: more labels than slots, values that do not fit, and names of writers
 * where the merchant can read them.
 *
 * @param labels value by slot name; tokens count as what they are filled with
 */
export const labelProblems = (
  network: Pick<Network, 'name' | 'slots'>,
  labels: Readonly<Record<string, string>>,
  accounts: readonly Pick<Account, 'owner'>[] = [],
): LabelProblem[] => {
  const given = Object.entries(labels).filter(([, value]) => value !== '');
  const problems: LabelProblem[] = [];
  if (given.length > network.slots.length)
    problems.push({
      slot: '',
      message: `${given.length} labels, but ${network.name} has ${network.slots.length} ${network.slots.length === 1 ? 'slot' : 'slots'}. Leave ${given.length - network.slots.length} out.`,
      refused: true,
    });
  for (const [name, value] of given) {
    const slot = network.slots.find((s) => s.name === name);
    if (!slot) {
      problems.push({
        slot: name,
        message: `${network.name} has no slot ${placeTitle(name)}.`,
        refused: true,
      });
      continue;
    }
    const loss = slotLoss(slot, value);
    if (loss) problems.push({ slot: name, message: loss.message, refused: loss.fatal });
    const writer = accounts.find(
      ({ owner }) => owner !== '' && value.toLowerCase().includes(owner.toLowerCase()),
    );
    if (slot.merchant && writer)
      problems.push({
        slot: name,
        message: `The merchant can read ${placeTitle(name)} too, so the name ${writer.owner} stays out of it.`,
        refused: true,
      });
  }
  return problems;
};
