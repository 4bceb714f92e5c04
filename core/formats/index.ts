export { bpmnOf, feelLanguage } from './bpmn.ts';
export { readReply, type Reply } from './reply.ts';
