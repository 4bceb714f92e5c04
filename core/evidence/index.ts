export * from './file-name.ts';
export { decisionsPaper, mostOnPaper, type DecidedOn } from './paper.ts';
