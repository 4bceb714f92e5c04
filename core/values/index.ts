export * from './value.ts';
export * from './reference.ts';
export * from './rich-text.ts';
export { Key } from './kept.ts';
export { isMailAddress } from './address/index.ts';
export { isNumber, numberFrom, digitsOf, compareNumbers, type NumberValue } from './number/index.ts';
export { isMoney, type Money } from './money/index.ts';
export { roomOf as roomOfValues, shapeOf, type ListType, type SingleType } from './rooms.ts';
export { Plain, type Expressed, type OrderWords, type NamedKind, type Stretches, type ValueNames } from './room.ts';
