import type { SyncServer } from '../app/sync/index.ts';
import { ServerError } from '../app/sync/index.ts';
import type { Chance } from '../server/testing/chance.ts';

/** What happens to a call on its way. */
export type Fate =
  'fine' | 'request lost' | 'answer lost' | 'repeated' | 'delayed' | 'swapped' | 'stranger' | 'cut off';

const bad: readonly Fate[] = [
  'request lost',
  'answer lost',
  'answer lost',
  'repeated',
  'delayed',
  'swapped',
  'stranger',
  'cut off',
];

export interface NetworkParts {
  readonly chance: Chance;
  readonly api: SyncServer;
  /** What else happens in the world while a call is on its way; gives false where the browser was killed in it. */
  meanwhile(): Promise<boolean>;
  /** The browser is killed while it waits for an answer. */
  killed(): void;
}

const never = <T>(): Promise<T> => new Promise(() => undefined);

/** The way between one browser and the server: it loses, repeats, delays, cuts and swaps. */
export class Network {
  readonly #parts: NetworkParts;
  /** Calls whose sender has long given up, and that still arrive one day. */
  #late: (() => Promise<unknown>)[] = [];
  readonly #answers = new Map<string, unknown[]>();
  isUp = true;
  /** One call in so many comes to grief; none where it is 0. */
  trouble = 4;

  constructor(parts: NetworkParts) {
    this.#parts = parts;
  }

  async #call<T>(name: string, ask: () => Promise<T>): Promise<T> {
    const { chance } = this.#parts;
    if (!this.isUp) throw new ServerError(0, 'No way to the server.');
    const fate = this.trouble > 0 && chance.below(this.trouble) === 0 ? chance.one(bad) : 'fine';
    if (!(await this.#parts.meanwhile())) return never();
    switch (fate) {
      case 'request lost':
        throw new ServerError(0, 'The request was lost.');
      case 'stranger':
        throw new ServerError(0, 'A page of a portal.', true);
      case 'delayed':
        this.#late.push(ask);
        throw new ServerError(0, 'No answer in time.');
      case 'repeated':
        await ask();
        break;
      case 'cut off': {
        if (chance.below(2) === 0) await ask().catch(() => undefined);
        this.#parts.killed();
        return never();
      }
      default:
    }
    const answer = await ask();
    const earlier = this.#answers.get(name) ?? [];
    this.#answers.set(name, [...earlier, answer].slice(-5));
    if (!(await this.#parts.meanwhile())) return never();
    if (fate === 'answer lost') throw new ServerError(0, 'The answer was lost.');
    // Kept under the same name, so it is of this type.
    return fate === 'swapped' && earlier.length > 0 ? (chance.one(earlier) as T) : answer;
  }

  /** Lets what was delayed arrive, if anything was. */
  async arrive(): Promise<void> {
    const late = this.#late.shift();
    await late?.().catch(() => undefined);
  }

  /** The server as the browser sees it. */
  readonly server: SyncServer = {
    health: () => this.#call('health', () => this.#parts.api.health()),
    story: () => this.#call('story', () => this.#parts.api.story()),
    changes: (after) => this.#call(`changes ${after}`, () => this.#parts.api.changes(after)),
    send: (changes, signature) => this.#call('send', () => this.#parts.api.send(changes, signature)),
    digest: () => this.#call('digest', () => this.#parts.api.digest()),
  };
}
