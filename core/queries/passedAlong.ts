import * as v from 'valibot';
import { element, parameter } from '#core/catalogue';
import { isPlaceholder } from '#core/conversions';
import type { PassedRole } from '#core/traffic';
import { passedRoles, readPassedCost } from '#core/traffic';
import { segmentRows } from '#core/visits';
import type { Dataset } from './dataset.ts';

/** What a parameter holds, as a person says it. */
export type ProposedRole = PassedRole | 'cost';

/** A parameter that came with visits of a source. */
export interface PassedParameter {
  readonly name: string;
  /** How many of the requests that were looked at had it. */
  readonly requests: number;
  /** How many different values it had. */
  readonly values: number;
  /** The most frequent of them. */
  readonly samples: readonly string[];
  /** Requests in which the seller's placeholder was never filled. */
  readonly unfilled: number;
  /** Values of filled ones that are prices as they can be read. */
  readonly prices: number;
  /** What it most likely holds, by its name and values, or by what the person said of another source. */
  readonly role: ProposedRole | undefined;
  /** The currency that the person said of another source. */
  readonly currency: string | undefined;
}

/** As many of the newest requests are looked at. */
const mostLookedAt = 5000;
const mostParameters = 40;
const samplesShown = 3;

/** Words in the names of parameters by which sellers pass along what they know; *common practice*. */
const wordsOf: readonly (readonly [ProposedRole, RegExp])[] = [
  ['cost', /^(?:cost|cpc|cpv|cpm|bid|price|payout|spend)(?:[_-]?(?:per[_-]?)?(?:click|visit))?$/],
  ['keyword', /^(?:utm[_-]?)?(?:kw|keyword|keywords|term|searchterm|search[_-]?term|query|kwd)$/],
  [
    'placement',
    /^(?:utm[_-]?)?(?:placement|zone|pub|publisher|site|spot|slot|widget|section|domain|app|channel|feed)(?:[_-]?(?:id|name))?$/,
  ],
  [
    'creative',
    /^(?:utm[_-]?)?(?:creative|ad|banner|content|image|headline|variant|teaser)(?:[_-]?(?:id|name))?$/,
  ],
];
/** A price a thousand visits is none of a single one. */
const ofThousand = /cpm/;

interface Seen {
  requests: number;
  unfilled: number;
  readonly values: Map<string, number>;
}

/** What the person said of parameters of the same names in other sources. */
const saidElsewhere = ({ records }: Dataset, source: string) => {
  const said = new Map<string, { readonly role: ProposedRole; readonly currency?: string }>();
  for (const { source: other, passes } of records.sources) {
    if (other === source || !passes) continue;
    for (const role of passedRoles) {
      const name = passes[role];
      if (name !== undefined) said.set(name, { role });
    }
    if (passes.cost) said.set(passes.cost.parameter, { role: 'cost', currency: passes.cost.currency });
  }
  return said;
};

/** The parameters that came with the newest requests of a source, tests left out; those that most had first. */
export const passedAlong = (data: Dataset, source: string): readonly PassedParameter[] => {
  const { columns } = data.journal;
  const { texts } = columns.dictionaries.source;
  const isAsked = texts.map((name) => name === source || data.sourceOf(name) === source);
  const seen = new Map<string, Seen>();
  let looked = 0;
  for (let row = columns.rows - 1; row >= 0 && looked < mostLookedAt; row--) {
    const segment = columns.segmentOf(row);
    if (!element(isAsked[element(segment.source[row % segmentRows])])) continue;
    if (data.classification.outcome(row) === 'test') continue;
    looked += 1;
    const names = new Set<string>();
    for (const [name, raw] of new URLSearchParams(columns.text('query', row))) {
      const value = raw.trim();
      // Of a parameter that stands there twice the first is read.
      if (names.has(name) || value === '' || !v.is(parameter, name)) continue;
      names.add(name);
      let found = seen.get(name);
      if (!found) {
        if (seen.size >= mostParameters) continue;
        seen.set(name, (found = { requests: 0, unfilled: 0, values: new Map() }));
      }
      found.requests += 1;
      if (isPlaceholder(value)) found.unfilled += 1;
      found.values.set(value, (found.values.get(value) ?? 0) + 1);
    }
  }
  const said = saidElsewhere(data, source);
  return [...seen]
    .map(([name, { requests, unfilled, values }]): PassedParameter => {
      const filled = [...values].filter(([value]) => !isPlaceholder(value));
      const prices = filled.filter(([value]) => readPassedCost(value) !== undefined).length;
      const isPrice = filled.length > 0 && prices === filled.length && !ofThousand.test(name.toLowerCase());
      const named = said.get(name)?.role ?? wordsOf.find(([, words]) => words.test(name.toLowerCase()))?.[0];
      return {
        name,
        requests,
        values: values.size,
        samples: filled
          .toSorted((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))
          .slice(0, samplesShown)
          .map(([value]) => value),
        unfilled,
        prices,
        role: named === 'cost' && !isPrice ? undefined : named,
        currency: said.get(name)?.currency,
      };
    })
    .toSorted((a, b) => b.requests - a.requests || (a.name < b.name ? -1 : 1));
};
