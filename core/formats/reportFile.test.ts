import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { openReport } from './index.ts';

/** A workbook with one sheet, as ECMA-376 (Office Open XML) lays it out: the fewest parts there can be. */
const workbook = (rows: readonly (readonly (string | number)[])[]): Uint8Array => {
  const name = (column: number, row: number) => `${String.fromCharCode(65 + column)}${row + 1}`;
  const cells = rows
    .map(
      (row, r) =>
        `<row r="${r + 1}">${row
          .map((cell, c) =>
            typeof cell === 'number'
              ? `<c r="${name(c, r)}"><v>${cell}</v></c>`
              : `<c r="${name(c, r)}" t="inlineStr"><is><t>${cell}</t></is></c>`,
          )
          .join('')}</row>`,
    )
    .join('');
  const office = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
  const main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
  const packages = 'http://schemas.openxmlformats.org/package/2006';
  const part = (text: string) => strToU8(`<?xml version="1.0" encoding="UTF-8" standalone="yes"?>${text}`);
  return zipSync({
    '[Content_Types].xml': part(
      `<Types xmlns="${packages}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>`,
    ),
    '_rels/.rels': part(
      `<Relationships xmlns="${packages}/relationships"><Relationship Id="rId1" Type="${office}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
    ),
    'xl/workbook.xml': part(
      `<workbook xmlns="${main}" xmlns:r="${office}"><sheets><sheet name="Orders" sheetId="1" r:id="rId1"/></sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': part(
      `<Relationships xmlns="${packages}/relationships"><Relationship Id="rId1" Type="${office}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
    ),
    'xl/worksheets/sheet1.xml': part(
      `<worksheet xmlns="${main}"><sheetData>${cells}</sheetData></worksheet>`,
    ),
  });
};

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
