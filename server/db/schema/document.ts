import { customType } from 'drizzle-orm/pg-core';
import { keptDocument, readDocument, type Format } from '../../../core/documents/index.ts';

/** A column that keeps a document with its version; whoever reads it gets one of the present version, parsed. */
export const document = <T extends object>(name: string, format: Format<T>) =>
  customType<{ data: T; driverData: unknown }>({
    dataType: () => 'jsonb',
    toDriver: (value) => JSON.stringify(keptDocument(format, value)),
    fromDriver: (stored) => readDocument(format, typeof stored === 'string' ? JSON.parse(stored) : stored),
  })(name);
