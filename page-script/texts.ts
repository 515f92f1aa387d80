import { blockElements, closedElements, headingElements, partingElements } from '#core/keywords';
import type { PageLinks } from './links.ts';

/** Words of one text node, or a place between words. */
export interface Run {
  /** Undefined where nothing may be linked: in a link, at a line break or a picture. */
  node: Text | undefined;
  /** Where it begins in its group. */
  start: number;
  readonly isHeading: boolean;
  /** The link it is in. */
  readonly anchor: Element | null;
}

/** Words that are read one after the other: those of one block, as a word that is partly bold is one word. */
export interface Group {
  text: string;
  readonly runs: Run[];
}

/** As `NodeFilter` has them (DOM standard, §6.3). */
const [elementsAndTexts, accept, reject] = [5, 1, 2];

const selector = (names: string) => names.replaceAll(' ', ',');
const closed = selector(closedElements);
const headings = selector(headingElements);
const blocks = selector(blockElements);
const parting = selector(partingElements);

/** Reads the words of parts of a page, each once. */
export class Texts {
  readonly #links: PageLinks;
  readonly #read = new WeakSet<Node>();

  constructor(links: PageLinks) {
    this.#links = links;
  }

  /** Says that a text node is not to be read any more. */
  pass(node: Node): void {
    this.#read.add(node);
  }

  /** Reads a part, a node at a time; gives a group once all of it was read. */
  *groups(root: Element): Generator<Group | undefined> {
    if (root.closest(closed) || this.#links.isLeft(root)) return;
    let group: Group = { text: '', runs: [] };
    let block: Element | null | undefined;
    const walker = document.createTreeWalker(root, elementsAndTexts, (node) => {
      if (!(node instanceof Element) || !(node.matches(closed) || this.#links.isLeft(node))) return accept;
      // Words on both sides of it are not one.
      group.text += '\n';
      if (node.matches(blocks)) block = undefined;
      return reject;
    });
    for (let node = walker.nextNode(); node; node = walker.nextNode()) {
      const text = node instanceof Text && !this.#read.has(node) ? node : undefined;
      const parent = node.parentElement;
      if (parent && (node instanceof Text || (node instanceof Element && node.matches(parting)))) {
        this.pass(node);
        const own = parent.closest(blocks);
        if (own !== block) {
          yield group;
          group = { text: '', runs: [] };
          block = own;
        }
        const anchor = parent.closest('a');
        group.runs.push({
          node: anchor ? undefined : text,
          start: group.text.length,
          isHeading: parent.closest(headings) !== null,
          anchor,
        });
        group.text += text ? text.data : '\n';
      }
      yield undefined;
    }
    yield group;
  }
}

/** The run that has a whole stretch of a group; undefined where it is parted. */
export const runWith = ({ runs, text }: Group, start: number, end: number): Run | undefined => {
  const at = runs.findLastIndex((run) => run.start <= start);
  return end <= (runs[at + 1]?.start ?? text.length) ? runs[at] : undefined;
};
