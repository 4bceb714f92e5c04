export { fileName, largestFile, sizeWords, takeFile, type Found } from './file.ts';
