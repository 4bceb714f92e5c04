import { sampleLetter } from '../../core/letters/index.ts';
import { placesAtStart } from '../../core/items/index.ts';
import { analyseAssignment, namingOf, walk } from '../../core/plans/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { draftOf } from '../items/queries.ts';
import { refuse, type Result } from '../refusal.ts';
import { press } from './press.ts';

/** The letter that a step of a draft writes, as a PDF: with the names of values where they will stand. Undefined: there is no such step. */
export async function letterPreview(
  viewer: Viewer,
  of: { item: string; step: string },
): Promise<Result<{ pdf: Buffer; fileName: string }> | undefined> {
  const found = await draftOf(viewer, of.item);
  const step = found && [...walk(found.draft.plan.steps)].map((w) => w.step).find((s) => s.id === of.step);
  if (!found || step?.kind !== 'write') return undefined;
  const { draft, kind, catalogue } = found;
  const { anywhere } = analyseAssignment(draft.plan.steps, placesAtStart(draft, kind, catalogue), catalogue, () => undefined);
  const letter = sampleLetter(step, namingOf(anywhere, catalogue).place);
  const made = await press(letter, now());
  return made.ok ? { ok: true, pdf: made.pdf, fileName: letter.fileName } : refuse('invalid', `The letter could not be made. ${made.cause}`);
}
