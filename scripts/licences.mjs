// Writes the licences of everything that ships into the built application: packages, fonts and the country table, each with
// the text that came with it. A package that names no licence, or one that is not free, stops the build.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './prepare.mjs';

const free =
  /^\(?(?:MIT|ISC|0BSD|BSD-[23]-Clause|Apache-2\.0|MPL-2\.0|OFL-1\.1|CC0-1\.0|Unlicense|BlueOak-1\.0\.0)\b/;

const textIn = (folder) => {
  const names = readdirSync(folder);
  const file =
    names.find((name) => /^(?:licen[cs]e|copying|ofl)/i.test(name)) ??
    names.find((name) => /^readme/i.test(name));
  return file === undefined ? '' : readFileSync(join(folder, file), 'utf8').trim();
};

const { packages } = JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8'));
const shipped = Object.entries(packages)
  .filter(([path, { dev, optional }]) => path !== '' && !dev && !optional)
  .map(([path, { version }]) => {
    const folder = join(root, path);
    // Old packages name theirs in a list.
    const { licenses, license = licenses?.[0]?.type } = JSON.parse(
      readFileSync(join(folder, 'package.json'), 'utf8'),
    );
    const name = path.slice(path.lastIndexOf('node_modules/') + 'node_modules/'.length);
    if (typeof license !== 'string' || !free.test(license))
      throw new Error(`${name} ${version} has the licence ${JSON.stringify(license)}. Use another package.`);
    return { name: `${name} ${version}`, license, text: textIn(folder) };
  })
  .sort((a, b) => (a.name < b.name ? -1 : 1));

/** Data that is not shipped as it is published: a table is made of it when the application is built. */
const asNumbers = join(root, 'node_modules/@ip-location-db/asn');
shipped.push({
  name: `AS numbers of @ip-location-db/asn ${packages['node_modules/@ip-location-db/asn'].version}, as a table of ranges`,
  license: 'CC-BY-4.0',
  text: ['ROUTEVIEWS-LICENSE', 'DBIP-LICENSE', 'MODIFICATIONS']
    .map((name) => readFileSync(join(asNumbers, name), 'utf8').trim())
    .join('\n\n'),
});

const own = readFileSync(join(root, 'LICENSE'), 'utf8').trim();
const rule = '='.repeat(80);
writeFileSync(
  join(root, 'dist/app/licences.txt'),
  [`Fernhop\n\n${own}`, ...shipped.map(({ name, license, text }) => `${name}\n${license}\n\n${text}`)].join(
    `\n\n${rule}\n\n`,
  ) + '\n',
);
console.log(`licences of ${shipped.length} packages written`);
