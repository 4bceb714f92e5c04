import { dateWords } from '../../core/calendar/index.ts';
import type { Happening, Standing } from '../../core/staff/index.ts';

/** What of somebody is otherwise than before, in a line; of who begins, when and as what. */
export function changedWords({ kind, standing: s, changed }: { kind: Happening; standing: Partial<Standing>; changed: (keyof Standing)[] }): string {
  const begins = kind === 'starts' || kind === 'returns';
  const said = (key: keyof Standing): string | undefined => {
    const value = s[key];
    if (key === 'firstDay' || key === 'lastDay') return value ? `${key === 'firstDay' ? 'first' : 'last'} day ${dateWords(value)}` : undefined;
    if (key === 'manager') return value ? `manager ${value}` : 'no manager';
    return value ?? undefined;
  };
  const keys: (keyof Standing)[] = begins ? ['firstDay', 'jobRole', 'department', 'place'] : changed;
  return keys.flatMap((key) => said(key) ?? []).join(', ');
}
