export { blankTable, checkTable, keyOf, named, readRow, rowWords, settled, TableDefinition, TableFrom, type Cells, type WrongCell } from './table.ts';
export { namesIn, planImport, previewOf, readCell, readHead, writtenCell, type Import, type ImportPreview } from './csv.ts';
export { keysOfEdits, mostEdits, planEdits, type EditPlan, type RowEdit, type StandingRow } from './edits.ts';
export { keyWords, namedInKey } from './key.ts';
export { standingAfter, takeBack, type Change, type StandingNow, type TakenBack } from './history.ts';
export { planReading, readColumns, type Reading } from './reading.ts';
export { fieldForRow, RowAsking, rowsThatHold } from './asking.ts';
