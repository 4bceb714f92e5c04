import Bowser from 'bowser';

/** What a browser says it is, in words a person knows it by. */
export function browserWords(agent: string): string {
  if (!agent) return 'Something that does not say what it is';
  const { browser, os } = Bowser.parse(agent);
  return browser.name ? [browser.name, browser.version?.split('.')[0], os.name && `on ${os.name}`].filter(Boolean).join(' ') : agent;
}
