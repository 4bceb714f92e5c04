import type { KeyboardEvent } from 'react';
import { type Line, type Plan, type Position, type Run, walk } from '../../core/plans/index.ts';
import type { SheetActs } from './sheet-acts';

/** The keys of the sheet, in words, for whoever asks. */
export const keys: [string, string][] = [
  ['↑ ↓, Home, End', 'from line to line; Down from anywhere goes to the sheet'],
  ['← →', 'fold and unfold; to what a line hangs on, and into it'],
  ['Shift ↑ ↓', 'choose several steps that stand together'],
  ['Enter', 'open the settings of a step; insert the first of an empty branch or plan'],
  ['F2', 'rename a step where it stands'],
  ['A, B', 'insert a step after, before'],
  ['I', 'insert the first step of a branch'],
  ['Alt ↑ ↓', 'move through the block, and on into the next'],
  ['Alt → ←', 'move into the step above, out of the block'],
  ['Ctrl C, X, V, D', 'copy, cut, paste, duplicate'],
  ['Delete', 'remove'],
  ['Ctrl Z, Ctrl Y', 'undo, do again'],
  ['Ctrl F', 'find a step'],
  ['Esc', 'choose one again; close the settings'],
  ['?', 'show these keys'],
];

interface Here {
  plan: Plan;
  lines: Line[];
  cursor: string | undefined;
  run: Run;
  folded: ReadonlySet<string>;
  acts: SheetActs;
  /** Puts the keyboard on a line at once, so that the next key is meant for it. */
  goTo: (line: string) => void;
  rename: (step: string) => void;
  find: () => void;
  help: () => void;
}

/** Takes a key pressed on the sheet; the ARIA treegrid pattern, with editing keys besides. */
export function onKeyDown(e: KeyboardEvent, here: Here): void {
  const { lines, run, acts } = here;
  const at = lines.findIndex((l) => l.id === here.cursor);
  const line = lines[at];
  const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
  const control = e.ctrlKey || e.metaKey;
  const act = actOf();
  if (!act) return;
  e.preventDefault();
  act();

  function actOf(): (() => void) | undefined {
    if (control && !e.altKey) return controlled();
    if (e.altKey) return run.length === 0 ? undefined : moved();
    if (e.shiftKey && (key === 'ArrowDown' || key === 'ArrowUp')) return extended();
    switch (key) {
      case 'ArrowDown':
        return to(lines[at + 1]);
      case 'ArrowUp':
        return to(lines[at - 1]);
      case 'Home':
        return to(lines[0]);
      case 'End':
        return to(lines.at(-1));
      case 'ArrowRight':
        return right();
      case 'ArrowLeft':
        return left();
      case '?':
        return here.help;
      case 'Escape':
        return () => acts.leave(here.cursor);
    }
    return line ? edited(line) : begun();
  }

  function to(next: Line | undefined) {
    return next && (() => here.goTo(next.id));
  }
  function right() {
    if (!line || line.holds === 0) return undefined;
    return here.folded.has(line.id) ? () => acts.fold([line.id], false) : to(lines[at + 1]);
  }
  function left() {
    if (!line) return undefined;
    if (line.holds > 0 && !here.folded.has(line.id)) return () => acts.fold([line.id], true);
    return to(lines.find((l) => l.id === line.parent));
  }
  function moved() {
    const way = ({ ArrowUp: 'up', ArrowDown: 'down', ArrowRight: 'in', ArrowLeft: 'out' } as const)[key];
    return way && (() => acts.move(run, way));
  }
  /** The next of those that stand in the same block, kept together with those chosen before. */
  function extended() {
    const found = [...walk(here.plan.steps)].find((w) => w.step.id === here.cursor);
    const next = found?.block[found.index + (key === 'ArrowDown' ? 1 : -1)];
    return next && (() => acts.extend(next.id, here.cursor));
  }
  function controlled() {
    if (key === 'f') return here.find;
    if (key === 'v') return () => acts.paste(behind());
    if (run.length === 0) return undefined;
    if (key === 'd') return () => acts.duplicate(run);
    if (key === 'c' || key === 'x') return () => acts.copy(run, key === 'x');
    return undefined;
  }
  /** Where what is pasted goes: after what is chosen, into a branch, or first of all. */
  function behind(): Position {
    const last = run.at(-1);
    if (last !== undefined) return { after: last };
    return line?.is === 'branch' ? { into: line.of, branch: line.branch } : 'start';
  }
  /** The first step of all. */
  function begun() {
    return lines.length === 0 && ['Enter', ' ', 'Insert', 'a', 'b', 'i'].includes(key) ? () => acts.insert('start') : undefined;
  }
  function edited(on: Line) {
    const branch = on.is === 'branch' ? { into: on.of, branch: on.branch } : undefined;
    if (key === 'i' || (branch && (key === 'a' || key === 'Enter' || key === ' ' || key === 'Insert')))
      return branch ? () => acts.insert(branch) : intoEmpty(on);
    if (branch) return undefined;
    if (key === 'Enter' || key === ' ') return () => acts.open(on.id);
    if (key === 'F2') return () => here.rename(on.id);
    if (key === 'a' || key === 'Insert') return () => acts.insert({ after: run.at(-1) ?? on.id });
    if (key === 'b') return () => acts.insert({ before: run[0] ?? on.id });
    if (key === 'Delete' || key === 'Backspace') return () => acts.remove(run);
    return undefined;
  }
  /** On a step: into the first of its branches that has no step yet. */
  function intoEmpty(on: Line) {
    const empty = lines.find((l) => l.is === 'branch' && l.of === on.id && l.holds === 0);
    return empty?.is === 'branch' ? () => acts.insert({ into: empty.of, branch: empty.branch }) : undefined;
  }
}
