import { strToU8 } from 'fflate';
import { describe, expect, it } from 'vitest';
import { workbook } from '../../standins/index.ts';
import { openReport } from './index.ts';

describe('a report file', () => {
  it('is read from a workbook, and one that was cut off says so', async () => {
    const bytes = workbook([
      ['Order', 'Date', 'Commission'],
      ['HM-1', '12.10.2026', 13.83],
      ['HM-2', '13.10.2026', 4],
    ]);
    expect(await openReport(bytes)).toEqual({
      ok: true,
      format: 'XLSX, its first sheet',
      table: {
        header: ['Order', 'Date', 'Commission'],
        rows: [
          ['HM-1', '12.10.2026', '13.83'],
          ['HM-2', '13.10.2026', '4'],
        ],
        lines: [2, 3],
      },
    });
    expect(await openReport(bytes.slice(0, bytes.length / 2))).toMatchObject({
      ok: false,
      message: expect.stringContaining('cut off'),
    });
  });

  it('is read from JSON lines, and a line that is none is named', async () => {
    const text = '{"id":"os-1","reward":13.83}\n\n{"id":"os-2","status":"ok"}\n';
    expect(await openReport(strToU8(text))).toMatchObject({
      ok: true,
      table: {
        header: ['id', 'reward', 'status'],
        rows: [
          ['os-1', '13.83', ''],
          ['os-2', '', 'ok'],
        ],
        lines: [1, 3],
      },
    });
    expect(await openReport(strToU8('{"id":1}\n{oops\n'))).toMatchObject({
      ok: false,
      message: expect.stringContaining('Line 2'),
    });
  });

  it('is refused with the reason when it is something else', async () => {
    for (const [bytes, words] of [
      [new Uint8Array(), 'empty'],
      [strToU8('<!doctype html><p>log in'), 'web page'],
      [Uint8Array.of(0xd0, 0xcf, 0x11, 0xe0), 'old kind'],
      [Uint8Array.of(1, 0, 2, 0), 'no text'],
    ] as const)
      expect(await openReport(bytes)).toMatchObject({ ok: false, message: expect.stringContaining(words) });
  });
});
