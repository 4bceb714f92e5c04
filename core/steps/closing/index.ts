import { acrossSettings, branchesOf } from '../blocks.ts';
import { unset } from '../finding.ts';
import type { Room } from '../room.ts';
import { finish, inBranch, takeBranch } from '../run/context.ts';
import { outcomeWords, type Outcome } from '../settings.ts';
import type { Block } from '../step.ts';
import { closingSchema, type Closing } from './settings.ts';

const across = acrossSettings('declined', 'withdrawn', 'lapsed', 'failed');
const stated = (step: Closing) => branchesOf({ across }, step);
const wordsOf = (branch: string): string => outcomeWords[branch as keyof Closing & Outcome].toLowerCase();
/** The block before this outcome. A request that goes well passes by. */
const blockFor = (step: Closing, outcome: Outcome): Block | undefined => (outcome === 'fulfilled' ? undefined : step[outcome]);

/** The room of this kind; `room.ts` says what each member means. */
export const closing: Room<Closing> = {
  verb: 'Closing',
  does: 'What is done before a request ends as declined, withdrawn, lapsed or failed',
  toRequester: 'What was begun is wound up',
  alsoCalled: ['cancel', 'clean up', 'take back', 'wind up', 'abort', 'withdrawal'],
  schema: closingSchema,
  fresh: () => ({ withdrawn: [] }),
  across,
  head: (_, branch) => `Before it ends as ${wordsOf(branch)}`,
  holds: true,
  steers: true,
  flow: (step) => ({ is: 'closing', ways: stated(step).map((b) => ({ ...b, aside: true })) }),
  closes: (step, outcome) => blockFor(step, outcome) !== undefined,
  lacks: (step) => (stated(step).some((b) => b.block.length > 0) ? [] : [unset(step, 'anything to do before the request ends')]),
  party: () => '',
  sentence: (step) =>
    `Passed by as things go well; ${stated(step)
      .map((b) => `before the request ends as ${wordsOf(b.id)}, from wherever it was, these steps come first`)
      .join('; ')}.`,
  settle: (context, step, activity, scope) => {
    const { ending } = context.state;
    if (!activity.lanes) takeBranch(context, step, activity, scope, ending && blockFor(step, ending.outcome) ? ending.outcome : 'passed');
    const settled = inBranch(context, step, activity, scope);
    if (settled !== 'done' || !ending) return settled;
    activity.phase = 'settled';
    return finish(context, ending.outcome, ending.reason);
  },
  endsWhenTaken: true,
  // The flow passes it by; each way is a subprocess that an event begins, from wherever the process is.
  bpmn: (step, from, write) => {
    for (const { id, block } of stated(step))
      write.onEvent(step, `_${id}`, `Before it ends as ${wordsOf(id)}`, `request.ending = "${id}"`, (inside, start) =>
        inside.closed(inside.block(block, start), inside.idOf(step, `_${id}_end`)),
      );
    return write.simple('bpmn:IntermediateThrowEvent', step, from);
  },
};
