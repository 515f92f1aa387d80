import type { ScriptTable } from '#core/articles';
import type { PageLinks } from './links.ts';
import type { Settings } from './settings.ts';
import { freshId, pageAddress, tell } from './tell.ts';

const filled = (address: string, slot: string, click: string): string =>
  address
    .split(/(?=[?&#])/)
    .map((part) => (part.slice(1).startsWith(`${slot}=`) ? `${part[0]}${slot}=${click}` : part))
    .join('');

/**
 * Listens to presses of links that lead away: our hop is told the page, a link that is placed as it is gets its click ID and is
 * counted, and the page hears of it as the event `fernhop:click`.
 */
export const listenToClicks = (table: ScriptTable, settings: Settings, links: PageLinks): void => {
  const { first } = settings;
  const onClick = ({ target, button }: MouseEvent): void => {
    const link = target instanceof Element ? target.closest('a') : null;
    if (!link?.host || button > 1) return;
    const { fernhop, click: named = '', source: marked } = link.dataset;
    if (link.host === location.host && fernhop === undefined && !links.linkOf(link)) return;
    const [before, address, page] = [link.getAttribute('href') ?? '', link.href, pageAddress()];
    const [id = '', , , slot] = fernhop === undefined ? (links.linkOf(link) ?? []) : [fernhop, , , named];
    const isOwn = links.isOwn(link);
    const source =
      marked ?? (isOwn ? (/(?:~|%7e)([\w-]+)$/i.exec(link.pathname)?.[1] ?? '') : settings.source);
    const seen = { link: id, source, page };
    let click = '';
    if (slot !== undefined) {
      click = freshId();
      if (slot !== '') link.href = filled(address, slot, click);
      if (settings.counts('clicks')) tell(table.origin, { event: 'click', click, first, ...seen });
    } else if (isOwn) {
      // A source in the address itself comes before the one of the click that led here.
      const landed = first && `&from-click=${first}&from=${settings.source}`;
      link.search += `${link.search === '' ? '' : '&'}from-page=${encodeURIComponent(page)}${landed}`;
    }
    // The browser follows it as it stands now; whoever copies it later finds it as it was.
    if (link.href !== address) setTimeout(() => link.setAttribute('href', before));
    const detail = { ...seen, address, click };
    link.dispatchEvent(new CustomEvent('fernhop:click', { bubbles: true, detail }));
  };
  const listener = (event: MouseEvent) => {
    try {
      onClick(event);
    } catch {
      // The link works as it stands.
    }
  };
  addEventListener('click', listener, true);
  addEventListener('auxclick', listener, true);
};
