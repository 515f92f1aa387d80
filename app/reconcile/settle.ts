import type { Decision } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import type { Case } from '#core/reconcile';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';

const done: Readonly<Record<Decision['kind'], string>> = {
  accept: 'accepted',
  choose: 'given the chosen click',
  'write off': 'written off',
  ask: 'waiting for the network',
};

/** Records decisions about cases; many at once are one step, undone as one. */
export const useDecide = () => {
  const catalogue = useCatalogue();
  const notice = useNotice();
  return async (
    cases: readonly Pick<Case, 'id' | 'decision'>[],
    kind: Decision['kind'],
    reason: string,
    click = '',
  ): Promise<void> => {
    const at = Date.now();
    const step = await catalogue.save(
      ...cases.map(({ id, decision }) => {
        const record = sameId('dec', id);
        const value: Decision = { id: record, case: id, kind, reason, at, ...(click !== '' && { click }) };
        // Whoever decided it meanwhile decided first: both are asked which decision stands.
        const began = decision
          ? catalogue.rowNow(record)
          : { record, kind: 'decision' as const, value: null };
        return { kind: 'decision' as const, value, began };
      }),
    );
    const what = cases.length === 1 ? 'One difference is' : `${cases.length} differences are`;
    notice.did(`${what} ${done[kind]}.`, step);
  };
};
