export { bpmnOf, feelLanguage } from './bpmn.ts';
export { howToAnswer, readReply, type Reply } from './reply.ts';
export { isVouchedFor } from './vouched.ts';
export { largestCalendar, readHolidays, type Holiday } from './holidays.ts';
export { dmnOf, largestDmn, readDmn, type DmnContext } from './dmn.ts';
export { busyAsked, readBusy, type BusyKnown } from './free-busy.ts';
export { invitationText, type Invitation, type Invited } from './invitation.ts';
export { howToSayComing, readComingWords, readInvitationReply, type InvitationReply } from './invitation-reply.ts';
