import type { LucideIcon } from 'lucide-react';
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

/** Waiting is ochre, systems are violet; what the run does by itself and what people are told is plain. */
export type Tone = 'waits' | 'system' | 'people' | 'plain' | 'done' | 'end';

/** How a kind of step is set and drawn. */
export interface StepLook<S> {
  Settings: ComponentType<SettingsProps<S>>;
  bar: Tone;
  /** Where it takes no time; as the bar, unless stated. */
  tick?: Tone;
  /** Of a step that only holds others. */
  Icon?: LucideIcon;
}
