export function backup(url: string, file: string): Promise<void>;
export function restore(file: string, url: string): Promise<void>;
