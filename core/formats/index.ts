export type { AnyRecord, CatalogueFile } from './catalogueFile.ts';
export { catalogueFileSchema, readCatalogue, writeCatalogue } from './catalogueFile.ts';
export type { CsvTable } from './csv.ts';
export { readTable, writeTable } from './csv.ts';
export type { ColumnFields, GoodRow, ImportPlan, LinkField, WhenTaken } from './links.ts';
export {
  columnsKey,
  guessColumns,
  isLinkField,
  linkFields,
  planImport,
  readLinkRow,
  readLinkRows,
  writeLinks,
} from './links.ts';
export type { HandRedirect, ReadRedirects } from './redirects/index.ts';
export { readRedirects } from './redirects/index.ts';
export { parseNdjson, readNdjson } from './ndjson.ts';
export type { DecodedText } from './text.ts';
export { decodeText } from './text.ts';
export type { OpenedReport } from './reportFile.ts';
export { openReport } from './reportFile.ts';
