export { advance, replay } from './advance.ts';
export { RunEvent, Candidate } from './event.ts';
export type { Effect, IgnoredReason, ResolvedApprovers, StepEnd } from './effect.ts';
export { RunState, newState, openActivities, type Activity, type Ask } from './state.ts';
