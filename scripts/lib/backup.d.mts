export function backup(url: string, file: string): Promise<void>;
export function restore(file: string, url: string): Promise<void>;
export function replaceDatabase(server: { superUrl: string }, name: string, by: string): Promise<void>;
