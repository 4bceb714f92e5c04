import type { Step, StepKind, StepOf } from '../../core/plans/index.ts';
import { askBack } from './ask-back';
import { choose } from './choose';
import { closing } from './closing';
import { find } from './find';
import { finish } from './finish';
import { forEach } from './for-each';
import { gate } from './gate';
import { guard } from './guard';
import { invite } from './invite';
import { mark } from './mark';
import { part } from './part';
import { pause } from './pause';
import { provision } from './provision';
import { repeat } from './repeat';
import { task } from './task';
import { tell } from './tell';
import { together } from './together';
import { workOut } from './work-out';
import { write } from './write';
import type { StepLook } from './look';

export type { Edit } from './look';

/** How each kind of step is set and drawn; one left out does not compile. */
const looks: { [K in StepKind]: StepLook<StepOf<K>> } = {
  gate,
  task,
  provision,
  tell,
  write,
  invite,
  askBack,
  find,
  workOut,
  choose,
  together,
  forEach,
  repeat,
  guard,
  pause,
  mark,
  part,
  closing,
  finish,
};

/** The look of a step, as one that takes any: whoever asks hands it steps of that kind only. */
export const lookOf = (step: { kind: StepKind }): StepLook<Step> => looks[step.kind] as unknown as StepLook<Step>;
