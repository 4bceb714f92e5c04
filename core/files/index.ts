export { fileName, largestFile, nameOfWords, sizeWords, takeFile, type Found } from './file.ts';
