import { readFileSync } from 'node:fs';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import type { ScriptTable } from '#core/articles';
import { makeLinkReader, scriptTable, usualArticles } from '#core/articles';
import { builtFile } from '../built.ts';
import { catalogueOf } from '../dataFolder.ts';

/** The script of one link domain, with what it knows of the links. */
export interface PlaceScript {
  readonly text: string;
  readonly brotli: Uint8Array;
  readonly gzip: Uint8Array;
  /** How many links it knows, and how many were left out as there are too many. */
  readonly links: number;
  readonly left: number;
}

/** A script that can stand in a page as well as in a file: nothing in its data ends a script element. */
export const scriptWith = (code: string, table: ScriptTable): string => {
  const data = JSON.stringify(table)
    .replaceAll('<', '\\u003c')
    .replaceAll('\u2028', '\\u2028')
    .replaceAll('\u2029', '\\u2029');
  return `(()=>{try{${code.trim()}\nfernhop((document.currentScript||{}).dataset||{},${data})}catch(e){}})();\n`;
};

/**
 * Makes the script of each link domain of a data folder, by its host. It reads the whole catalogue, so it is for a thread of its own.
 *
 * @param port of the server, for domains of this machine alone
 * @param now milliseconds since 1970 UTC
 */
export const placeScripts = (dataDir: string, port: number, now: number): Map<string, PlaceScript> => {
  const code = readFileSync(builtFile('../page-script/place.js'), 'utf8');
  const catalogue = catalogueOf(dataDir);
  const domains = catalogue.all('domain');
  const reader = makeLinkReader({
    domains,
    networks: catalogue.all('network'),
    programs: catalogue.all('program'),
    accounts: catalogue.all('account'),
    links: catalogue.all('link'),
    products: [],
    port: String(port),
    dead: new Map(),
    now,
  });
  const choices = catalogue.all('settings')[0]?.articles ?? usualArticles;
  return new Map(
    domains.map((domain) => {
      const { table, left } = scriptTable(reader, domain, choices);
      const text = scriptWith(code, table);
      const script: PlaceScript = {
        text,
        brotli: brotliCompressSync(text),
        gzip: gzipSync(text, { level: 9 }),
        links: table.links.length,
        left,
      };
      return [domain.host, script];
    }),
  );
};
