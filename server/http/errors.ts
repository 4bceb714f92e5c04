/** Where an unexpected error came from: the frames only, since its message may repeat what somebody sent. */
export const stackOf = (error: unknown): string | undefined =>
  error instanceof Error
    ? error.stack
        ?.split('\n')
        .filter((l) => /^\s+at /.test(l))
        .slice(0, 12)
        .join('\n')
    : undefined;
