/** An address with what is asked of it; parts that say nothing are left out. */
export function addressOf(path: string, ...parts: string[]): string {
  const said = parts.filter(Boolean).join('&');
  return said ? `${path}?${said}` : path;
}
