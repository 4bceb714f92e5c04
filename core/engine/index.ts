export { advance, replay } from './advance.ts';
export { RunEvent } from './event.ts';
export { RunState, newState, openActivities } from './state.ts';
export { causeChain } from './causes.ts';
export { whyNotOver } from './go-over.ts';
export { agreements, foreseenIn, type Agreement, type ForeseenAct } from './agreements.ts';
export { avoidances, type Avoidance } from './avoidance.ts';
export {
  Candidate,
  resolveAsks,
  type Activity,
  type AskedApprover,
  type Effect,
  type Given,
  type IgnoredReason,
  type TextSnapshot,
  stepEnds,
  type StepEnd,
  type Wanted,
} from '../steps/index.ts';
