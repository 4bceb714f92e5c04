import { expose } from 'comlink';
import { study, type ItemDefinition, type ItemKind, type Studied } from '../../core/items/index.ts';
import type { Catalogue } from '../../core/plans/index.ts';

/** Off the page's own thread: check, places and timing of a draft, however large. */
let known: Catalogue | undefined;
const api = {
  /** What plans may name outside themselves; said once, and again when it changes. */
  know: (catalogue: Catalogue): void => {
    known = catalogue;
  },
  study: (kind: ItemKind, draft: ItemDefinition, step: string | undefined): Studied => {
    if (!known) throw new Error('Nothing is known yet of what the plan may name.');
    return study(kind, draft, known, step);
  },
};
export type StudyWorker = typeof api;
expose(api);
