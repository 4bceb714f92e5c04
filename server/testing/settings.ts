import { useSettings, type Config } from '../config.ts';

/** Settings for a test: what it does not state leads nowhere. */
export const testSettings = (stated: Record<string, string>): Config =>
  useSettings({
    DATABASE_URL: 'postgres://nobody@127.0.0.1:1/none',
    PORT: '1',
    PUBLIC_URL: 'http://127.0.0.1:1',
    SECRET_KEY: 'cd'.repeat(32),
    DIRECTORY_URL: 'http://127.0.0.1:1',
    DIRECTORY_TOKEN: 'secret-token',
    SMTP_URL: 'smtp://127.0.0.1:1',
    MAIL_FROM: 'Nessmoor <desk@skerrin.example>',
    MAIL_DOMAIN: 'nessmoor.skerrin.example',
    LOG_LEVEL: 'silent',
    ...stated,
  });
