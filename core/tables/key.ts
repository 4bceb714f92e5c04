import type { Value, ValueNames } from '../values/index.ts';
import type { Column } from '../forms/index.ts';
import { namedKind } from './csv.ts';
import type { TableDefinition } from './table.ts';

/** The texts that a key is made of, column by column (`keyOf`). */
function partsOf(key: string): string[] {
  const parts: string[] = [];
  let part = '';
  let marked = false;
  for (const letter of key) {
    if (marked || (letter !== '\\' && letter !== '|')) part += letter;
    else if (letter === '|') {
      parts.push(part);
      part = '';
    }
    marked = !marked && letter === '\\';
  }
  return [...parts, part];
}

const columnsOf = ({ key, columns }: Pick<TableDefinition, 'key' | 'columns'>): (Column | undefined)[] =>
  key.map((id) => columns.find((c) => c.id === id));

/** What a key names that is kept elsewhere, so that its names can be looked up. */
export const namedInKey = (table: Pick<TableDefinition, 'key' | 'columns'>, key: string): Value[] =>
  columnsOf(table).flatMap((column, i) => {
    const kind = column && namedKind(column.kind);
    const part = partsOf(key)[i];
    return kind && part ? [{ [kind]: part } as unknown as Value] : [];
  });

/** A key in words, as `rowWords` gives them of a row's cells: for a row that is not at hand any more. */
export const keyWords = (table: Pick<TableDefinition, 'key' | 'columns'>, key: string, names: ValueNames): string => {
  const columns = columnsOf(table);
  return partsOf(key)
    .map((part, i) => {
      const column = columns[i];
      const kind = column && namedKind(column.kind);
      if (kind) return names(kind, part) ?? part;
      return column?.options?.find((o) => o.value === part)?.label ?? part;
    })
    .filter(Boolean)
    .join(', ');
};
