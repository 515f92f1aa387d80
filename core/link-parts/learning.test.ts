import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Network } from '#core/catalogue';
import {
  compareSamples,
  fillSlots,
  followValues,
  linkFormatOf,
  labelProblems,
  learnRole,
  readLink,
  readSnippet,
  replaceTag,
  slotLoss,
  slotsOf,
  splitLink,
  touchedLinks,
  trailOf,
  unknownTag,
} from './index.ts';
import { linkRecord, networkOf } from './testing/records.ts';

const network: Network = { ...networkOf('Harrowmead'), id: 'net_harrowmead' };
const link = (destination: string) => linkRecord({ destination });

describe('links of an unknown network, side by side', () => {
  const samples = [
    'https://go.farrow.example/x?m=881&who=nl-4471&c=12&sub1=&u=https%3A%2F%2Fshop-a.example%2F1',
    'https://go.farrow.example/x?m=881&who=nl-4471&c=13&sub1=&u=https%3A%2F%2Fshop-a.example%2F2',
    'https://go.farrow.example/x?m=902&who=nl-4471&c=14&sub1=&u=https%3A%2F%2Fshop-b.example%2F1',
  ];

  it('tell account from program from creative from page', () => {
    expect(Object.fromEntries(compareSamples(samples).map((c) => [c.name, c.role]))).toEqual({
      m: 'program',
      who: 'account',
      c: 'other',
      sub1: 'slot',
      u: 'page',
    });
    expect(compareSamples(samples).find((c) => c.name === 'who')?.reason).toBe(
      'It is nl-4471 in all 3 links.',
    );
  });

  it('make a link format by which the next link is recognised', () => {
    const roles = new Map(compareSamples(samples).map((c) => [c.name, c.role]));
    const linkFormat = linkFormatOf(samples, roles);
    const learnt: Network = {
      ...network,
      id: 'net_farrow',
      name: 'Farrow',
      linkFormat,
      slots: slotsOf(linkFormat),
    };
    const next =
      'https://go.farrow.example/x?m=77&who=nl-4471&c=1&sub1=&u=https%3A%2F%2Fshop-c.example%2F&z=';
    const linkParts = readLink(next, [learnt]);
    expect(linkParts.network?.name).toBe('Farrow');
    // Apart from the slot every byte is the one pasted, the empty last parameter too.
    expect(fillSlots(linkParts)).toBe(next.replace('sub1=', 'sub1={click}'));
  });

  it('say nothing where there is nothing to compare', () => {
    expect(compareSamples(['https://a.example/?x=1'])[0]?.role).toBe('other');
    expect(compareSamples([])).toEqual([]);
  });

  // Three numbers and empty parameters at the end are a shape of the trade (common practice): nothing may fall off.
  it('keep three numbers and their empty last parameters whole', () => {
    const pasted = 'https://c.farrow.example/k?7&4471&902&sub=&u=';
    const linkFormat = linkFormatOf([pasted], new Map([['sub', 'slot' as const]]));
    const learnt: Network = { ...network, linkFormat, slots: slotsOf(linkFormat) };
    expect(fillSlots(readLink(pasted, [learnt]))).toBe(
      'https://c.farrow.example/k?7&4471&902&sub={click}&u=',
    );
  });
});

describe('a part nobody can read', () => {
  it('is marked so', () => {
    const { pairs } = readLink('https://c.farrow.example/k?e=U2FsdGVkX19k3vY7pQw9zL0aB4cD&a=plain');
    expect(pairs.map((pair) => pair.reason.includes('looks encrypted'))).toEqual([true, false]);
  });
});

describe('a correction', () => {
  it('raises the version, keeps the link format before, and knows whom it touches', () => {
    const before = network;
    const after = learnRole(before, 'clip', 'creative');
    expect(after.linkFormat.version).toBe(2);
    expect(after.earlierLinkFormats?.[0]).toEqual(before.linkFormat);
    const touched = link('https://t.harrowmead.example/r?by=nl&clip=7');
    const same = link('https://t.harrowmead.example/r?by=nl');
    expect(touchedLinks(before, after, [touched, same, link('https://else.example/?clip=7')])).toEqual([
      touched,
    ]);
    expect(learnRole(after, 'clip', 'creative')).toBe(after);
  });

  it('makes a slot of a parameter, and takes it back', () => {
    const withSlot = learnRole(network, 'extra', 'slot');
    expect(withSlot.slots.map((slot) => [slot.name, slot.fill])).toEqual([
      ['ref1', '{click}'],
      ['ref2', '{source}'],
      ['extra', ''],
    ]);
    expect(learnRole(withSlot, 'extra', 'other').slots).toEqual(network.slots);
  });
});

describe('a pasted snippet', () => {
  it('yields its address, picture, size and counting picture', () => {
    const html = `<a href="https://t.harrowmead.example/r?by=nl-4471&amp;deal=2093&amp;page=" target="_top">
      <img src="//pics.farrow.example/b/468x60.png" width="468" height="60" alt="Saturn kit" border="0"></a>
      <img src="https://pics.farrow.example/i?by=nl-4471" width="1" height="1">`;
    expect(readSnippet(html)).toEqual({
      address: 'https://t.harrowmead.example/r?by=nl-4471&deal=2093&page=',
      text: 'Saturn kit',
      picture: { src: 'https://pics.farrow.example/b/468x60.png', width: 468, height: 60 },
      counting: 'https://pics.farrow.example/i?by=nl-4471',
    });
  });
  it('yields the address a script would open', () =>
    expect(
      readSnippet('<script>var u = "https:\\/\\/t.farrow.example\\/x?a=1"; open(u)</script>')?.address,
    ).toBe('https://t.farrow.example/x?a=1'));
  it.each(['https://a.example/', 'a < b', '<p>no link</p>', '<a href="javascript:x">x</a>', ''])(
    'is not %j',
    (text) => expect(readSnippet(text)).toBeUndefined(),
  );
  it('never fails, whatever is pasted', () =>
    fc.assert(fc.property(fc.string(), (text) => void readSnippet(`<a href="${text}">${text}`))));
});

describe('a sub-ID slot', () => {
  const slot = {
    name: 'ref1',
    length: 20,
    fill: '{click}' as const,
    allowed: 'any' as const,
    merchant: false,
  };

  it('says what would arrive of a click ID', () => {
    expect(slotLoss(slot, '{click}')).toMatchObject({
      message: 'The last 6 of 26 characters would be lost; the match still works from the first 20.',
      fatal: false,
    });
    expect(slotLoss({ ...slot, length: 26 }, '{click}')).toBeUndefined();
    expect(slotLoss({ ...slot, length: 11 }, '{click}')?.fatal).toBe(true);
    expect(slotLoss({ ...slot, allowed: 'digits' }, '{click}')?.fatal).toBe(true);
  });

  it('says what would arrive of a label', () => {
    expect(slotLoss({ ...slot, allowed: 'alphanumeric' }, 'saturn-guide')?.arrives).toBe('saturnguide');
    expect(slotLoss({ ...slot, length: 6 }, 'saturn-guide')?.message).toBe(
      'The last 6 of 12 characters would be lost: “saturn” would arrive.',
    );
    expect(slotLoss(slot, 'saturn-guide')).toBeUndefined();
  });

  it('is one of so many, and the merchant may look into it', () => {
    const two = { name: 'Harrowmead', slots: [slot, { ...slot, name: 'ref2', merchant: true }] };
    expect(labelProblems(two, { ref1: 'a', ref2: 'b', ref3: 'c' })[0]).toMatchObject({
      message: '3 labels, but Harrowmead has 2 slots. Leave 1 out.',
      refused: true,
    });
    expect(labelProblems(two, { ref2: 'by-ines' }, [{ owner: 'Ines' }])[0]?.message).toContain(
      'the name Ines stays out',
    );
    expect(labelProblems(two, { ref1: 'by-ines' }, [{ owner: 'Ines' }])).toEqual([]);
  });
});

describe('account tags', () => {
  const registered = [{ id: 'acc_1', network: network.id, tag: 'nl-4471', owner: 'Ines' }];
  it('that nobody registered are noticed, and replaced without touching another byte', () => {
    const good = 'https://t.harrowmead.example/r?by=nl-4471&ref1=x&page=';
    const bad = good.replace('4471', '4417');
    expect(unknownTag(good, [network], [], registered)).toBeUndefined();
    const found = unknownTag(bad, [network], [], registered);
    expect(found?.tag).toBe('nl-4417');
    expect(found && replaceTag(bad, found, 'nl-4471')).toBe(good);
    expect(unknownTag('https://club.example/?by=who', [network], [], registered)).toBeUndefined();
  });
});

describe('values followed along a chain', () => {
  it('are found encoded too, and missed where they were lost', () => {
    const urls = [
      'https://see.example/kit',
      'https://t.example/r?ref1=01M8&page=https%3A%2F%2Fs.example%2F%3Fk%3DA%2520B',
      'https://via.example/drop',
    ];
    expect(followValues(urls, { click: '01M8', words: 'A B', nothing: '' })).toEqual([
      { name: 'click', value: '01M8', there: [false, true, false], lostAt: 2 },
      { name: 'words', value: 'A B', there: [false, true, false], lostAt: 2 },
    ]);
  });
  it('tell what was lost on the way to the network from what the network keeps', () => {
    const inner = 'https://t.harrowmead.example/r?by=nl-4471&ref1=01M84BDPSKXE4HN0RD2V6W3PBC';
    const start = `https://via.example/drop?to=${encodeURIComponent(inner)}`;
    const lossy = trailOf([start, 'https://t.harrowmead.example/r?by=nl-4471', 'https://s.example/'], []);
    expect(lossy.networkAt).toBe(1);
    expect(lossy.followed.map((f) => [f.name, f.fate, f.lostAt])).toEqual([
      ['by', 'arrived', 2],
      ['ref1', 'lost', 1],
    ]);
    const whole = trailOf([start, inner, 'https://s.example/'], []);
    expect(whole.followed.map((f) => f.fate)).toEqual(['arrived', 'arrived']);
    expect(whole.swapped).toBeUndefined();
  });
  it('name an account that was swapped on the way, at the same network alone', () => {
    const of = (account: string) => `https://t.harrowmead.example/r?by=${account}&ref1=`;
    const through = `https://via.example/go?to=${encodeURIComponent(of('nl-4471'))}`;
    expect(trailOf([through, of('xx-1'), 'https://s.example/'], []).swapped).toEqual({
      at: 1,
      was: 'nl-4471',
      is: 'xx-1',
    });
    expect(trailOf([of('nl-4471'), of('nl-4471')], []).swapped).toBeUndefined();
    // Two networks in one chain have an account each.
    expect(trailOf([of('nl-4471'), 'https://go.kelvane.example/c/7731/71?k1='], []).swapped).toBeUndefined();
  });
  it('cover every link whatever bytes it has', () =>
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true }), (url) => {
        expect(
          splitLink(url)
            .parts.map((part) => part.text)
            .join(''),
        ).toBe(url);
        expect(followValues([url], { all: url })[0]?.there).toEqual([true]);
      }),
    ));
});
