import { learnRole, touchedLinks } from '#core/link-parts';
import type { Network, Role } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';

/** Teaches a network what a parameter of its links is for, and says which links that touches. */
export const useTeaching = () => {
  const catalogue = useCatalogue();
  const notice = useNotice();

  /** Saves a network with another link format, as a step that can be undone. */
  const saveLinkFormat = async (before: Network, after: Network): Promise<void> => {
    if (after === before) return;
    const step = await catalogue.saveRecord('network', after);
    const touched = touchedLinks(before, after, catalogue.links);
    const names = touched
      .slice(0, 3)
      .map((link) => link.slug)
      .join(', ');
    notice.did(
      `${after.name}’s link format is now version ${after.linkFormat.version}. ${
        touched.length === 0
          ? 'It reads no link otherwise.'
          : `It reads ${touched.length} ${touched.length === 1 ? 'link' : 'links'} otherwise: ${names}${touched.length > 3 ? '…' : '.'}`
      }`,
      step,
    );
  };
  const teach = (network: Network, name: string, role: Role): Promise<void> =>
    saveLinkFormat(network, learnRole(network, name, role));
  return { saveLinkFormat, teach };
};
