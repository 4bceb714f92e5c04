/** A call that may go well when tried again: the system is down, slow, or was changed meanwhile. */
export class TransientError extends Error {
  override name = 'TransientError';
}
/** A call that will not go well however often it is tried: the system understood and refused. */
export class PermanentError extends Error {
  override name = 'PermanentError';
}
