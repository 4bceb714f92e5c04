/** A call that may go well when tried again: the system is down, slow, or was changed meanwhile. */
export class Trouble extends Error {
  override name = 'Trouble';
}
/** A call that will not go well however often it is tried: the system understood and refused. */
export class Refused extends Error {
  override name = 'Refused';
}
