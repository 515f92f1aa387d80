import { strToU8, zipSync } from 'fflate';

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');

/** A workbook with one sheet, as ECMA-376 (Office Open XML) lays it out: the fewest parts there can be. */
export const workbook = (rows: readonly (readonly (string | number)[])[]): Uint8Array => {
  const name = (column: number, row: number) => `${String.fromCharCode(65 + column)}${row + 1}`;
  const cells = rows
    .map(
      (row, r) =>
        `<row r="${r + 1}">${row
          .map((cell, c) =>
            typeof cell === 'number'
              ? `<c r="${name(c, r)}"><v>${cell}</v></c>`
              : `<c r="${name(c, r)}" t="inlineStr"><is><t>${escaped(cell)}</t></is></c>`,
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
