import { escapeHtml } from '#core/hop';

/** A piece of HTML that may be put into a page as it is. */
export class Html {
  readonly text: string;
  constructor(text: string) {
    this.text = text;
  }
}

type Value = string | number | Html | readonly Html[];

const render = (value: Value): string => {
  if (value instanceof Html) return value.text;
  if (Array.isArray(value)) return value.map(render).join('');
  return escapeHtml(String(value));
};

/** Builds HTML; every value is escaped unless it is HTML already. */
export const html = (strings: TemplateStringsArray, ...values: readonly Value[]): Html =>
  new Html(strings.map((text, i) => text + (i < values.length ? render(values[i] ?? '') : '')).join(''));

/** A whole page in a stand-in's plain look. */
export const pageOf = (title: string, colour: string, body: Html, head: Html = html``): string =>
  html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width" />
        <title>${title}</title>
        ${head}
        <style>
          body {
            font:
              16px/1.5 system-ui,
              sans-serif;
            max-width: 60rem;
            margin: 2rem auto;
            padding: 0 1rem;
            color: #222;
          }
          header {
            border-bottom: 4px solid ${colour};
            margin-bottom: 1.5rem;
          }
          header small {
            color: #595959;
          }
          table {
            border-collapse: collapse;
            width: 100%;
            font-size: 14px;
          }
          th,
          td {
            text-align: left;
            padding: 0.3rem 0.6rem 0.3rem 0;
            border-bottom: 1px solid #ddd;
          }
          code {
            font-size: 13px;
            overflow-wrap: anywhere;
          }
          input[type='text'] {
            box-sizing: border-box;
            width: 100%;
            font: 13px monospace;
            padding: 0.3rem;
          }
          input.short {
            width: 5rem;
          }
          button {
            font: inherit;
            padding: 0.2rem 0.7rem;
          }
          form {
            display: inline;
          }
        </style>
      </head>
      <body>
        <header>
          <h1>${title}</h1>
          <p><small>A simulated site that ships with Fernhop. Nothing here can be bought.</small></p>
        </header>
        ${body}
      </body>
    </html>`.text;

const formats = new Map<string, Intl.NumberFormat>();

/** An amount of money as a person reads it: `€172.90`, `¥1,200`. */
export const price = ({ minor, currency }: { readonly minor: number; readonly currency: string }): string => {
  let format = formats.get(currency);
  if (!format)
    formats.set(currency, (format = new Intl.NumberFormat('en-US', { style: 'currency', currency })));
  return format.format(minor / 10 ** (format.resolvedOptions().maximumFractionDigits ?? 2));
};
