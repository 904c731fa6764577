/** Debian's build of the same Chromium without the browser's own windows: a tenth less work for what drives many. */
export const headlessShell = process.env.CHROMIUM ?? '/usr/bin/chromium-headless-shell';

/** How Debian's Chromium is started, wherever something drives it. */
export const chromiumOptions = {
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
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
