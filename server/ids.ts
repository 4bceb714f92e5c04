/** Whether a text can be an id of ours; anything else names nothing and never reaches the database. */
export const isId = (text: string): boolean => /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(text);
