/** The directory is built in: what it is called by, and its name. */
export const directoryId = 'directory';
export const directoryName = 'Directory';
