export { bpmnOf, feelLanguage } from './bpmn.ts';
export { howToAnswer, readReply, type Reply } from './reply.ts';
export { isVouchedFor } from './vouched.ts';
export { largestCalendar, readHolidays, type Holiday } from './holidays.ts';
export { dmnOf, largestDmn, readDmn, type DmnContext } from './dmn.ts';
