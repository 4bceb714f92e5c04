/**
 * Whether something failed because the database is away, restarts, is too busy, or let two transactions meet (SQLSTATE classes
 * 08, 53, 57, 40): the same thing done again will do.
 */
export const isDatabaseTrouble = (error: unknown): boolean => {
  const cause = error instanceof Error && error.cause instanceof Error ? error.cause : error;
  if (!(error instanceof Error) || !(cause instanceof Error)) return false;
  const code = 'code' in cause ? String(cause.code) : '';
  return (
    /^(08|57|53|40)/.test(code) ||
    /^E[A-Z]+$/.test(code) ||
    /Connection terminated|timeout exceeded when trying to connect/.test(`${error.message} ${cause.message}`)
  );
};
