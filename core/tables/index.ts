export { blankTable, checkTable, keyOf, named, readRow, rowWords, settled, TableDefinition, type Cells, type WrongCell } from './table.ts';
export { namesIn, planImport, previewOf, readCell, readHead, writtenCell, type Import, type ImportPreview } from './csv.ts';
