export { Coming, comingWords } from './coming.ts';
export { firstFree, type Diary, type Stretch } from './free.ts';
export { meetingTime } from './words.ts';
export { meetingWindow } from './window.ts';
