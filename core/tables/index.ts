export { blankTable, checkTable, keyOf, named, readRow, rowWords, settled, TableDefinition, type Cells, type WrongCell } from './table.ts';
export { namesIn, planImport, readCell, readHead, writtenCell, type Import } from './csv.ts';
