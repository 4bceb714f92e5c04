/**
 * What a record holds under a name somebody chose; never what every object has (`constructor`, `toString`). Records of
 * that kind come out of JSON with the usual prototype, so they are read and written through here only.
 */
export const own = <T>(record: Readonly<Record<string, T>> | undefined, name: string): T | undefined =>
  record !== undefined && Object.hasOwn(record, name) ? record[name] : undefined;

/** Sets a name of such a record, also `__proto__`, as a value of its own. */
export function setOwn<T>(record: Record<string, T>, name: string, value: T): T {
  Object.defineProperty(record, name, { value, writable: true, enumerable: true, configurable: true });
  return value;
}

/** The value under a name; where there is none, what `make` gives is put there. */
export const ownOr = <T>(record: Record<string, T>, name: string, make: () => T): T => own(record, name) ?? setOwn(record, name, make());

/** Names that every object answers to; no id is one of them. */
export const taken: ReadonlySet<string> = new Set(Object.getOwnPropertyNames(Object.prototype));
