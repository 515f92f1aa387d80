import { describe, expect, it } from 'vitest';
import { isPlaceholder, learnPostback, readPostback } from './index.ts';
import { postbackRecord } from '../visits/testing/records.ts';

// Styles in which networks document what they fill in: common practice.
const styles = ['{click}', '{{click}}', '${click}', '[[click]]', '[click]', '%click%', '#click#', '<click>'];

describe('a placeholder that nobody replaced', () => {
  it.each(styles)('%s is one, for whoever reads a postback or learns from an example', (text) => {
    expect(isPlaceholder(text)).toBe(true);
    const query = `click=${encodeURIComponent(text)}&txn=T1&amount=5.00`;
    const { event, problems } = readPostback(postbackRecord({ query }), { fields: {}, statuses: {} }, 'EUR');
    expect([event.click, event.unfilled]).toEqual(['', text]);
    expect(problems.map(({ path }) => path)).toContain('click');
    expect(learnPostback(`https://see.example/postback/k?${query}`)[0]).toMatchObject({
      field: 'click',
      placeholder: true,
    });
  });

  it.each(['', 'click', '01M84BDPSKXE4HN0RD2V6W3PBC', '50%', '%20%', 'a{b}c', '{click', '[]', '##', '<>'])(
    '“%s” is a value',
    (text) => expect(isPlaceholder(text)).toBe(false),
  );
});
