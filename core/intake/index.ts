export { addressOf, answeredBy, automaticOf, goesRound, ourAddress, type MailHeader } from './mail.ts';
export { ownWords, subjectOf } from './own-words.ts';
export { IntakeWay } from './way.ts';
