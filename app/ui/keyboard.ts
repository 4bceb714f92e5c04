/**
 * Whether somebody has put the keyboard somewhere else while what had it was closing, which takes a moment: what closes gives it
 * back to what opened it only where nobody has.
 */
export const keyboardIsElsewhere = (): boolean => document.activeElement !== null && document.activeElement !== document.body;
