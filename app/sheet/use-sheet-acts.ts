import { useMemo } from 'react';
import { useLatest } from '~/ui/latest';
import { toast } from 'sonner';
import {
  above,
  duplicateSteps,
  findStep,
  moveRun,
  moveTo,
  pasteSteps,
  removeSteps,
  replaceStep,
  stepsIn,
  unwrapStep,
  wrapSteps,
  type Line,
  type Plan,
  type Position,
  type Run,
} from '../../core/plans/index.ts';
import type { DraftEditor } from './draft-editor';
import type { SheetActs } from './sheet-acts';
import { copiedSteps, copySteps } from './step-clipboard';

interface Here {
  editor: DraftEditor;
  lines: Line[];
  /** Shows a line as chosen; `slip`: with its settings open, as they were where it is left out. */
  show: (line: string | undefined, slip?: boolean) => void;
  /** Chooses siblings together; the last is the one the keyboard is on. */
  choose: (run: Run) => void;
  extend: (to: string, from?: string) => void;
  insert: (at: Position) => void;
  fold: (lines: string[], on: boolean) => void;
}

/** The acts of the sheet on the draft as it is when they are called; they stay the same objects from one drawing to the next. */
export function useSheetActs(here: Here): SheetActs {
  const now = useLatest(here);
  return useMemo(
    () => ({
      go: (line) => acting(now.current).go(line),
      extend: (...given) => acting(now.current).extend(...given),
      leave: (line) => acting(now.current).leave(line),
      open: (step) => acting(now.current).open(step),
      insert: (at) => acting(now.current).insert(at),
      rename: (...given) => acting(now.current).rename(...given),
      remove: (run) => acting(now.current).remove(run),
      move: (...given) => acting(now.current).move(...given),
      duplicate: (run) => acting(now.current).duplicate(run),
      copy: (...given) => acting(now.current).copy(...given),
      paste: (at) => acting(now.current).paste(at),
      wrap: (...given) => acting(now.current).wrap(...given),
      unwrap: (step) => acting(now.current).unwrap(step),
      drop: (...given) => acting(now.current).drop(...given),
      fold: (...given) => acting(now.current).fold(...given),
    }),
    [now],
  );
}

/** “Tell”, or “Tell” and 2 more. */
const named = (plan: Plan, run: Run): string => {
  const more = run.length - 1;
  return `“${findStep(plan, run[0] ?? '')?.name ?? ''}”${more > 0 ? ` and ${more} more` : ''}`;
};

function acting(here: Here): SheetActs {
  const { editor, lines } = here;
  const { plan } = editor.draft;
  const put = (next: Plan, did: string): void => {
    if (next !== plan) editor.change({ ...editor.draft, plan: next }, did);
  };
  const undoable = (said: string) => toast(said, { action: { label: 'Undo', onClick: () => void editor.undo() } });
  /** What the keyboard is on once steps are gone: the line above the first of them. */
  const lineAbove = (run: Run): string | undefined => {
    const at = lines.findIndex((l) => run.includes(l.id));
    const rest = lines.slice(at).find((l) => !run.includes(l.id) && l.level <= lines[at]!.level);
    return lines[at - 1]?.id ?? rest?.id;
  };
  const acts: SheetActs = {
    go: (line) => here.show(line),
    extend: (to, from) => here.extend(to, from),
    leave: (line) => here.show(line, false),
    open: (step) => here.show(step, true),
    insert: (at) => here.insert(at),
    fold: (lines, on) => here.fold(lines, on),
    rename: (id, name) => {
      const step = findStep(plan, id);
      if (step) put(replaceStep(plan, { ...step, name }), `Rename “${step.name}”`);
    },
    remove: (run) => {
      const words = named(plan, run);
      const next = lineAbove(run);
      put(removeSteps(plan, run), `Remove ${words}`);
      here.show(next, false);
      undoable(`${words} removed`);
    },
    move: (run, way) => {
      const next = moveRun(plan, run, way);
      if (next === plan) return void toast(nowhere[way], { duration: 2000 });
      put(next, `Move ${named(plan, run)}`);
      here.choose(run);
    },
    drop: (run, at) => {
      put(moveTo(plan, run, at), `Move ${named(plan, run)}`);
      here.choose(run);
    },
    copy: (run, cut) => {
      const steps = stepsIn(plan, run);
      if (steps.length === 0) return;
      copySteps(steps, editor.id);
      if (cut) return acts.remove(run);
      toast(`${named(plan, run)} copied. Ctrl V puts it after the chosen step, here or in another item.`, { duration: 2500 });
    },
    paste: (at) => {
      const copied = copiedSteps();
      if (!copied.ok) return void toast(copied.sentence);
      const { plan: next, copies } = pasteSteps(plan, copied.steps, at, copied.item === editor.id ? 'home' : 'elsewhere');
      put(next, `Paste “${copied.steps[0]?.name ?? ''}”`);
      here.choose(copies);
    },
    duplicate: (run) => {
      const { plan: next, copies } = duplicateSteps(plan, run);
      put(next, `Duplicate ${named(plan, run)}`);
      here.choose(copies);
    },
    wrap: (run, kind) => {
      const { plan: next, wrapper } = wrapSteps(plan, run, kind);
      put(next, `Wrap ${named(plan, run)}`);
      if (wrapper) acts.open(wrapper);
    },
    unwrap: (id) => {
      const words = named(plan, [id]);
      const next = unwrapStep(plan, id);
      const inside = lines.find((l) => l.is === 'step' && above(lines, l.id).includes(id));
      put(next, `Unwrap ${words}`);
      here.show(inside?.id, false);
    },
  };
  return acts;
}

const nowhere = {
  up: 'It stands first already.',
  down: 'It stands last already.',
  in: 'There is no step with branches right above it.',
  out: 'It stands in no branch.',
};
