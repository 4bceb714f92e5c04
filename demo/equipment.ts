import type { Viewer } from '../server/auth/viewer.ts';
import { addEquipmentKind, keepStockAt, setStockLevel } from '../server/equipment/arrange.ts';
import { handPiece, pickPiece, receive } from '../server/equipment/commands.ts';
import { addArrived } from '../server/equipment/pieces.ts';
import { counterOf } from '../server/equipment/queries.ts';
import { giveBack } from '../server/holdings/commands.ts';
import { thingsHeld } from '../server/holdings/queries.ts';
import type { Result } from '../server/refusal.ts';

/** What plans of the demo call the kinds of equipment. */
export const kindNames = { tablet: 'Field tablet', case: 'Carrying case', levelling: 'Levelling set' };

function good<T extends object>(result: Result<T>): T {
  if (!result.ok) throw new Error(`The demo cannot be loaded: ${result.sentence}`);
  return result;
}

const marks = (prefix: string, from: number, n: number): string =>
  Array.from({ length: n }, (_, i) => `${prefix}-${String(from + i).padStart(4, '0')}`).join('\n');

/** The stock of the two sites: what kinds there are, where they stand, who keeps them, and when more is ordered. */
export async function stock(
  designer: Viewer,
  keeper: Viewer,
  at: { stores: string; shed: string; storesTeam: string; shedTeam: string },
): Promise<void> {
  const tablet = good(await addEquipmentKind(designer, { name: kindNames.tablet, marked: 'each' })).id;
  const cases = good(await addEquipmentKind(designer, { name: kindNames.case, marked: 'none' })).id;
  const levelling = good(await addEquipmentKind(designer, { name: kindNames.levelling, marked: 'each' })).id;
  good(await keepStockAt(designer, { place: at.stores, team: at.storesTeam, told: 'on' }));
  good(await keepStockAt(designer, { place: at.shed, team: at.shedTeam }));
  const arrived = async (kind: string, place: string, of: { marks?: string; number?: string }) =>
    good(await addArrived(keeper, { kind, place, marks: of.marks ?? '', number: of.number ?? '' }));
  await arrived(tablet, at.stores, { marks: marks('FT', 201, 6) });
  await arrived(tablet, at.shed, { marks: marks('FT', 301, 2) });
  await arrived(cases, at.stores, { number: '12' });
  await arrived(levelling, at.stores, { marks: marks('LV', 11, 2) });
  good(await setStockLevel(designer, { kind: tablet, place: at.stores, least: '3', upTo: '8' }));
  good(await setStockLevel(designer, { kind: cases, place: at.stores, least: '5', upTo: '20' }));
}

/**
 * What is going on at the counter: of those for whom something is set aside the first has it since, and brings it back; the second has it;
 * for the third it stands ready. `settle` does what the worker would.
 */
export async function handedOut(keeper: Viewer, viewerOf: (name: string) => Viewer, settle: () => Promise<void>): Promise<void> {
  const { toHandOut } = (await counterOf(keeper))!;
  for (const [n, line] of toHandOut.entries()) {
    if (n > 1) {
      if (n === 2) good(await pickPiece(keeper, { issue: line.id }));
      continue;
    }
    good(await handPiece(keeper, { issue: line.id, mark: line.mark ?? '' }));
    await settle();
    const who = viewerOf(line.who);
    if (n > 0) continue;
    good(await receive(who, { issue: line.id }));
    const held = (await thingsHeld(who, 'mine')).rows.find((h) => h.kind === 'equipment');
    if (held) good(await giveBack(who, { id: held.id, why: 'The survey is over.' }));
    await settle();
  }
}
