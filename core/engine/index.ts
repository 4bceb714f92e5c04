export { advance, replay } from './advance.ts';
export { RunEvent, Candidate } from './event.ts';
export type { Effect, IgnoredReason, Said, StepEnd, Wanted } from './effect.ts';
export { RunState, newState, openActivities, type Activity, type Ask, type Given } from './state.ts';
export { causeChain } from './causes.ts';
export { agreements, type Agreement } from './agreements.ts';
export { resolveAsks } from './gate.ts';
