import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

const articles = import.meta.glob<string>('./articles/*.{html,md,mdx,json}', {
  query: '?raw',
  import: 'default',
  eager: true,
});

/**
 * Writes the articles of Nightledge into a folder, with the addresses of the simulated shops and of this server in them.
 *
 * @param place where a simulated host is: `place('polehouse')` is `polehouse.localhost:4611`
 * @param port of the server itself
 */
export const writeArticles = (folder: string, place: (name: string) => string, port: number): void => {
  mkdirSync(folder, { recursive: true });
  const local = (name: string) => (name === 'see.nightledge' ? `${name}.localhost:${port}` : place(name));
  for (const [path, text] of Object.entries(articles)) {
    const placed = text
      .replace(/https:\/\/([a-z.]+)\.example/g, (whole, name: string) =>
        name === 'club.nightledge' ? whole : `http://${local(name)}`,
      )
      .replace(/https%3A%2F%2F([a-z.]+)\.example/g, (_, name: string) =>
        encodeURIComponent(`http://${local(name)}`),
      );
    writeFileSync(join(folder, path.split('/').at(-1) ?? path), placed);
  }
};
