import { escapeHtml } from '#core/hop';
import type { Clip } from './forms.ts';
import { markdownLink } from './markup.ts';
import type { PlacedLink } from './snippet.ts';
import { linkHtml } from './snippet.ts';

/** What several links can be copied as. */
export const severalForms = ['list', 'table', 'markdown list', 'markdown table', 'addresses'] as const;
export type SeveralForm = (typeof severalForms)[number];

/** A link among several, and whose it is: the second column of a table. */
export interface OneOfSeveral {
  readonly link: PlacedLink;
  readonly from: string;
}

const markdownOf = ({ address, text, marks }: PlacedLink) => markdownLink(address, text, marks.title);

/** Several links for the clipboard, in their order. */
export const clipOfSeveral = (form: SeveralForm, links: readonly OneOfSeveral[]): Clip => {
  const list = `<ul>\n${links.map(({ link }) => `<li>${linkHtml(link)}</li>`).join('\n')}\n</ul>`;
  const rows = links.map(
    ({ link, from }) => `<tr><td>${linkHtml(link)}</td><td>${escapeHtml(from)}</td></tr>`,
  );
  const table = `<table>\n<thead><tr><th scope="col">Link</th><th scope="col">From</th></tr></thead>\n<tbody>\n${rows.join('\n')}\n</tbody>\n</table>`;
  switch (form) {
    case 'list':
      return { plain: list, html: list };
    case 'table':
      return { plain: table, html: table };
    case 'markdown list':
      return { plain: links.map(({ link }) => `- ${markdownOf(link)}`).join('\n'), html: list };
    case 'markdown table':
      return {
        plain: [
          '| Link | From |',
          '| --- | --- |',
          ...links.map(
            ({ link, from }) => `| ${markdownOf(link)} | ${from.replace(/[\\|]/g, (mark) => `\\${mark}`)} |`,
          ),
        ].join('\n'),
        html: table,
      };
    case 'addresses':
      return { plain: links.map(({ link }) => link.address).join('\n'), html: list };
  }
};
