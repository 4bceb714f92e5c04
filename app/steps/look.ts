import type { ComponentType } from 'react';
import type { Place, Step } from '../../core/plans/index.ts';

/** `what` names the setting, for undo. */
export type Edit = (step: Step, what: string) => void;

export interface SettingsProps<S> {
  step: S;
  /** What can be read when the step begins. */
  places: Place[];
  /** What can be read after a round of its body. */
  placesInside: Place[];
  onEdit: Edit;
}

/** The mark in the column of who acts; each is a shape of its own, so that colour never speaks alone. */
export type Shape = 'gate' | 'task' | 'question' | 'message' | 'letter' | 'meeting' | 'call' | 'milestone' | 'wait' | 'reckoning' | 'end' | 'holds';

/** How a kind of step is set and drawn. */
export interface StepLook<S> {
  Settings: ComponentType<SettingsProps<S>>;
  /** `holds`: it only holds others, and has no mark. */
  shape: Shape;
}
