import type { StepKind } from './plan.ts';

/** The verbs of the plan language, in the order the menu offers them. */
export const kindWords: Record<StepKind, { verb: string; does: string }> = {
  gate: { verb: 'Gate', does: 'Nothing passes until the approvers have let it' },
  task: { verb: 'Task', does: 'Somebody does something and says when it is done' },
  provision: { verb: 'Provision', does: 'Change something in a system' },
  tell: { verb: 'Tell', does: 'Send a message' },
  askBack: { verb: 'Ask back', does: 'Ask the requester and wait; the clock is held' },
  find: { verb: 'Find', does: 'Look up a person or people' },
  workOut: { verb: 'Work out', does: 'Compute a value from others' },
  choose: { verb: 'Choose', does: 'Go one way or another' },
  together: { verb: 'Together', does: 'Several branches side by side' },
  forEach: { verb: 'For each', does: 'The same steps for every row of a list' },
  repeat: { verb: 'Repeat', does: 'Again until something holds' },
  guard: { verb: 'Guard', does: 'Try, and if it fails or is late, do something else' },
  pause: { verb: 'Pause', does: 'Wait for a time or until a date' },
  mark: { verb: 'Mark', does: 'A milestone or status the requester sees' },
  part: { verb: 'Part', does: 'Steps that several items share' },
  finish: { verb: 'Finish', does: 'End the request here, with an outcome' },
};
