export { Letter, sayLetter, type Saying } from './letter.ts';
export { sampleLetter } from './sample.ts';
export { inFaces, layOut, type Block, type Face, type Faces, type Run, type Sheet } from './layout.ts';
