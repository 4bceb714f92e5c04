export { bpmnOf, feelLanguage } from './bpmn.ts';
