/** How Debian's Chromium is started here: as root, without a monitor, and with no reaching out of its own. */
export const chromiumLaunch = {
  executablePath: '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
};
