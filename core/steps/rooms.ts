import { z } from 'zod';
import { askBack } from './ask-back/index.ts';
import type { BlockSchema } from './base.ts';
import { choose } from './choose/index.ts';
import { closing } from './closing/index.ts';
import { find } from './find/index.ts';
import { finish } from './finish/index.ts';
import { forEach } from './for-each/index.ts';
import { gate } from './gate/index.ts';
import { guard } from './guard/index.ts';
import { invite } from './invite/index.ts';
import { mark } from './mark/index.ts';
import { partDefinition, type Part as PartType } from './part-definition.ts';
import { part } from './part/index.ts';
import { pause } from './pause/index.ts';
import { provision } from './provision/index.ts';
import { repeat } from './repeat/index.ts';
import type { AnyRoom, Rooms } from './room.ts';
import type { Block as Steps, Step as AnyStep, StepKind } from './step.ts';
import { task } from './task/index.ts';
import { tell } from './tell/index.ts';
import { together } from './together/index.ts';
import { workOut } from './work-out/index.ts';
import { write } from './write/index.ts';

/** The rooms, in the order the menu of verbs offers them. */
export const rooms: Rooms = {
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
/** The kinds, in the order of the menu. */
export const stepKinds = Object.keys(rooms) as StepKind[];

/** The room of a kind, as one that takes any step: whoever asks hands it steps of that kind only. */
export const roomOf = (step: { kind: StepKind }): AnyRoom => rooms[step.kind] as unknown as AnyRoom;

/** The verbs, what each does, and what people call it besides. */
export const kindWords = Object.fromEntries(
  stepKinds.map((k) => [k, { verb: rooms[k].verb, does: rooms[k].does, alsoCalled: rooms[k].alsoCalled }]),
) as Record<StepKind, { verb: string; does: string; alsoCalled: readonly string[] }>;

/** A step of any kind. */
export const Step: z.ZodType<AnyStep> = z.lazy(() => {
  const [first, ...rest] = stepKinds.map((k) => rooms[k].schema(Block) as unknown as z.ZodObject<{ kind: z.ZodLiteral<StepKind> }>);
  return z.discriminatedUnion('kind', [first!, ...rest]) as unknown as z.ZodType<AnyStep>;
});
/** Steps in order, at most 300. */
export const Block: BlockSchema = z.lazy(() => z.array(Step).max(300));
export type Step = AnyStep;
export type Block = Steps;

/** A piece of a plan that items share. */
export const Part: z.ZodType<PartType> = partDefinition(Block);
export type Part = PartType;
