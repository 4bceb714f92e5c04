export { readPage, StaffChange, StaffRecord, type StaffPage } from './record.ts';
export { happened, standingOf, type Happening, type StaffHappening, type Standing } from './standing.ts';
export {
  answersFrom,
  factsFor,
  proposedFacts,
  staffFollowed,
  staffHappenings,
  StaffRule,
  staffFacts,
  type FactValues,
  type StaffFact,
} from './rule.ts';
