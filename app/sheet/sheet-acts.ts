import type { Position, Run, Wrapping } from '../../core/plans/index.ts';

/** What can be done on the sheet. A run is one step, or whole siblings chosen together. */
export interface SheetActs {
  /** Puts the keyboard on a line. */
  go: (line: string | undefined) => void;
  /** Chooses all steps from where the choice began, or from this one, to another. */
  extend: (to: string, from?: string) => void;
  /** The same, with one chosen and the settings closed. */
  leave: (line: string | undefined) => void;
  open: (step: string) => void;
  insert: (at: Position) => void;
  rename: (step: string, name: string) => void;
  remove: (run: Run) => void;
  move: (run: Run, way: 'up' | 'down' | 'in' | 'out') => void;
  duplicate: (run: Run) => void;
  copy: (run: Run, cut: boolean) => void;
  paste: (at: Position) => void;
  wrap: (run: Run, kind: Wrapping) => void;
  unwrap: (step: string) => void;
  drop: (run: Run, at: Position) => void;
  /** Folds lines, or opens them. */
  fold: (lines: string[], on: boolean) => void;
}
