import { readdirSync, readFileSync, realpathSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { ArticleChoices } from '#core/catalogue';
import type { ArticleRegister, FindKind } from '#core/articles';
import { editsOf, formOfName, makeLinkReader, makeLooker, readArticles, usualArticles } from '#core/articles';

/** A find, for people and machines. */
export interface FileFind {
  readonly kind: FindKind;
  /** Line of the file it stands in; 1 for the first. In an export, of the article. */
  readonly line: number;
  /** Slug of the link it leads to; empty where there is none. */
  readonly link: string;
  readonly was: string;
  /** Whether `--write` does it; else a person has to. */
  readonly changes: boolean;
}
/** What came of one file. */
export interface FilePlaced {
  readonly file: string;
  readonly articles: readonly { readonly title: string; readonly finds: readonly FileFind[] }[];
  /** What was left as it is, and why. */
  readonly left: readonly string[];
  readonly written: boolean;
  /** Why it could not be read or written. */
  readonly error?: string;
}

/** Files in a folder that may be articles, in order; hidden folders and packages are passed over. */
const articlesIn = (path: string): string[] => {
  if (!statSync(path).isDirectory()) return [path];
  return readdirSync(path, { withFileTypes: true })
    .filter((entry) => !entry.name.startsWith('.') && entry.name !== 'node_modules')
    .toSorted((a, b) => (a.name < b.name ? -1 : 1))
    .flatMap((entry) => {
      const inner = join(path, entry.name);
      if (entry.isDirectory()) return articlesIn(inner);
      return entry.isFile() && formOfName(entry.name) !== undefined ? [inner] : [];
    });
};

/** Writes a file so that a stop in the middle leaves the old one whole. */
const writeWhole = (path: string, bytes: Uint8Array): void => {
  const real = realpathSync(path);
  const { mode } = statSync(real);
  const fresh = `${real}.fernhop-new`;
  writeFileSync(fresh, bytes, { mode });
  renameSync(fresh, real);
};

/**
 * Looks at files with articles, and writes what was found into them where that is asked for.
 *
 * @param paths files, and folders with files
 * @param source what stands after `~` in the links; the name of each article when left out
 */
export const placeFiles = (
  paths: readonly string[],
  register: ArticleRegister,
  choices: ArticleChoices | undefined,
  options: { readonly write: boolean; readonly source?: string | undefined },
): FilePlaced[] => {
  const looker = makeLooker(makeLinkReader(register), choices ?? usualArticles);
  const slugOf = new Map(register.links.map(({ id, slug }) => [id, slug]));
  const placeOne = (path: string): FilePlaced => {
    const read = readArticles(path, readFileSync(path));
    if (!read.ok) return { file: path, articles: [], left: [], written: false, error: read.says };
    const { file, articles, left } = read.read;
    const looked = articles.map((article) => ({
      article,
      ...looker.look(article, options.source ?? article.source),
    }));
    const edits = looked.flatMap(({ article, finds }) => article.place(editsOf(finds)));
    const isWritten = options.write && edits.length > 0;
    if (isWritten) writeWhole(path, file.write(edits));
    return {
      file: path,
      written: isWritten,
      left: [...left, ...looked.flatMap(({ parts }) => parts.left)],
      articles: looked.map(({ article, finds }) => {
        let [line, at] = [1, 0];
        return {
          title: article.title,
          finds: finds.map(({ kind, start, link, was, edits: changes }) => {
            line += article.text.slice(at, start).match(/\r\n|\n|\r/g)?.length ?? 0;
            at = start;
            return { kind, line, link: slugOf.get(link ?? '') ?? '', was, changes: changes.length > 0 };
          }),
        };
      }),
    };
  };
  return paths.flatMap((given) => {
    try {
      return articlesIn(given).map((path) => {
        try {
          return placeOne(path);
        } catch (fault) {
          const error = fault instanceof Error ? fault.message : String(fault);
          return { file: path, articles: [], left: [], written: false, error };
        }
      });
    } catch {
      return [
        { file: given, articles: [], left: [], written: false, error: 'There is no such file or folder.' },
      ];
    }
  });
};
