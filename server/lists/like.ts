/** A pattern for LIKE that finds a text anywhere, whatever signs stand in it. */
export const anywhere = (text: string): string => `%${text.trim().replace(/[\\%_]/g, '\\$&')}%`;
