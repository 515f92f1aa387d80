import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Role } from '#core/catalogue';
import { compareSamples, deepLink, linkFormatOf, readLink, slotsOf } from './index.ts';
import { partAt, partsOf, withParts } from './places.ts';
import type { InventedNetwork } from './testing/inventedNetworks.ts';
import { inventNetwork } from './testing/inventedNetworks.ts';
import { networkOf, programRecord } from './testing/records.ts';

const invented = Array.from({ length: 300 }, (_, seed) => inventNetwork(seed + 1));

/** How parts fared: the role they have, no role and a question, or a role that is not theirs. */
const judge = (
  networks: readonly InventedNetwork[],
  links: (network: InventedNetwork) => readonly string[],
) => {
  const sum = { right: 0, open: 0, wrong: 0 };
  const wrong: string[] = [];
  for (const network of networks) {
    const compared = compareSamples(links(network));
    for (const [name, role] of network.truth) {
      const whole = name.replace(/(?<=.)[.#]\d+$/, '');
      const found =
        compared.find((part) => part.name === name) ?? compared.find((part) => part.name === whole);
      const fared = !found
        ? role === 'other'
          ? 'right'
          : 'wrong'
        : found.open
          ? 'open'
          : found.role === role && found.name === name
            ? 'right'
            : 'wrong';
      sum[fared] += 1;
      if (fared === 'wrong')
        wrong.push(
          `${network.shape} ${name} is ${role}, not ${found?.role ?? 'nothing'}: ${network.samples.join(' ')}`,
        );
    }
  }
  const all = sum.right + sum.open + sum.wrong;
  return { ...sum, all, wrongs: wrong };
};

describe('three hundred networks that were made up', () => {
  it('are all of the shapes there are', () =>
    expect(new Set(invented.map(({ shape }) => shape)).size).toBe(9));

  it('give back the bytes of their links when these are read and written with nothing filled in', () => {
    for (const { samples } of invented)
      for (const link of samples) {
        const parts = partsOf(link);
        expect(withParts(link, Object.fromEntries(parts.map(({ name, value }) => [name, value])))).toBe(link);
        for (const { name, value, at } of parts) {
          expect(partAt(link, name)).toEqual({ name, value, at });
          expect(link.slice(at, at + value.length)).toBe(value);
        }
      }
  });

  it('from three links each: at most 1 of 100 parts gets a wrong role, and more than half the right one', () => {
    const { right, open, wrong, all, wrongs } = judge(invented, ({ samples }) => samples);
    process.stdout.write(`three links: ${right} right, ${open} left open, ${wrong} wrong of ${all} parts\n`);
    expect(wrong / all, wrongs.slice(0, 12).join('\n')).toBeLessThanOrEqual(0.01);
    expect((right + open) / all).toBeGreaterThanOrEqual(0.95);
    expect(right / all).toBeGreaterThan(0.5);
  });

  it('from one link each: at most 2 of 100', () => {
    const { right, open, wrong, all, wrongs } = judge(invented, ({ samples }) => samples.slice(0, 1));
    process.stdout.write(`one link: ${right} right, ${open} left open, ${wrong} wrong of ${all} parts\n`);
    expect(wrong / all, wrongs.slice(0, 12).join('\n')).toBeLessThanOrEqual(0.02);
    expect(right / all).toBeGreaterThan(0.3);
  });

  it('give for a page the very link their own tool gives, or a question', () => {
    const sum = { same: 0, asked: 0 };
    for (const network of invented) {
      const { samples, truth, programs, programOf, tool, account } = network;
      // A person says what was left open, and nothing else.
      const roles = new Map<string, Role>(
        compareSamples(samples).map(({ name, role, open }) => [
          name,
          open ? (truth.get(name) ?? role) : role,
        ]),
      );
      const linkFormat = linkFormatOf(samples, roles);
      const learnt = { ...networkOf('Harrowmead'), linkFormat, slots: slotsOf(linkFormat) };
      for (const link of samples) expect(readLink(link, [learnt]).network, link).toBe(learnt);
      for (const [n, { code, host }] of programs.slice(0, 2).entries()) {
        const own = samples.filter((_, i) => programOf[i] === n);
        // The first holds nothing that codings write in different ways; the second does.
        for (const page of [
          `https://${host}/kits/moon-map`,
          `https://${host}/kits/moon%20map?size=(2)&x=ä`,
        ]) {
          const made = deepLink(page, learnt, programRecord({ code, hosts: [host] }), account, own);
          if (!made.ok) {
            sum.asked += 1;
            continue;
          }
          const slots = learnt.slots.map(({ fill }) => fill);
          expect(made.link, `${network.shape}: ${samples.join(' ')}`).toBe(tool(page, n, slots));
          sum.same += 1;
        }
      }
    }
    process.stdout.write(`deep links: ${sum.same} the same, ${sum.asked} asked about\n`);
    expect(sum.same).toBeGreaterThan(sum.asked);
  });
});

describe('the parts of any address', () => {
  it('written back with nothing filled in are the address: property', () =>
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true, withFragments: true }), (link) => {
        const values = Object.fromEntries(partsOf(link).map(({ name, value }) => [name, value]));
        // Of two parameters with one name the first is meant.
        const once = new Set(partsOf(link).map(({ name }) => name)).size === partsOf(link).length;
        fc.pre(once && !/[?&][^&=#]+(?:[&#]|$)/.test(link));
        expect(withParts(link, values)).toBe(link);
      }),
    ));

  it('are found at their places', () => {
    const link = 'https://ines@nl.moon.pay.example:81/c/click-44-9002/https%3A%2F%2Fa?id=4_71&e=#/x?s=1&t=2';
    const at = (name: string) => partAt(link, name)?.value;
    expect([at('//1'), at('//2'), at('/1'), at('/2.3'), at('id#2'), at('id'), at('e'), at('#s')]).toEqual([
      'nl',
      'moon',
      'c',
      '9002',
      '71',
      '4_71',
      '',
      undefined,
    ]);
    expect(partAt('https://t.example/c/88/https://shop.example/x?y=1#z', '/3+')?.value).toBe(
      'https://shop.example/x?y=1#z',
    );
    expect(partAt('https://t.example/go#a=1&b=', '#b')?.value).toBe('');
    expect(withParts('https://t.example/go#a=1&b=', { '#b': '{click}' })).toBe(
      'https://t.example/go#a=1&b={click}',
    );
    expect(withParts('https://t.example/c/88/4', { '/3': '7', '/2': '9' })).toBe('https://t.example/c/9/7');
  });
});
