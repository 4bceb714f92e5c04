export { blankTable, checkTable, keyOf, readRow, rowWords, TableDefinition, type Cells, type WrongCell } from './table.ts';
export { namedKind, namesIn, planImport, readCell, readHead, writtenCell, type Import } from './csv.ts';
