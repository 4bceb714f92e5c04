/** A call that may go well when tried again: the system is down, slow, or was changed meanwhile. */
export class TransientError extends Error {
  override name = 'TransientError';
}
/** What was to be changed is not any more as it was read: read again it may go well at once. */
export class ChangedMeanwhile extends TransientError {}
/** A call that will not go well however often it is tried: the system understood and refused. */
export class PermanentError extends Error {
  override name = 'PermanentError';
}
