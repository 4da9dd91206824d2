import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Builder, By, Key, until } from 'selenium-webdriver';
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js';
import { which } from './packages.mjs';
import { patient } from './patience.cjs';

process.env.SE_OFFLINE = 'true';
process.env.SE_AVOID_STATS = 'true';
/** What comes at all comes within this. */
const WAIT_MS = patient(90_000);

/**
 * The first element whose text or name contains what is asked for, seen and enabled; null where none is for so long. The
 * page looks by itself: asked again and again through the driver it cost more than what is tested.
 */
const PRESSABLE = `
  const [css, names, ms, done] = arguments;
  const end = performance.now() + ms;
  const look = () => {
    for (const el of document.querySelectorAll(css)) {
      const label = (el.innerText + ' ' + (el.getAttribute('aria-label') ?? '')).replace(/\\s+/g, ' ');
      if (names.some((n) => label.includes(n)) && !el.disabled && el.getClientRects().length > 0) return done(el);
    }
    if (performance.now() > end) done(null);
    else setTimeout(look, 50);
  };
  look();`;

/** Until an element stays where it is: a click aims at where it was. Half a second at most. */
const STANDS_STILL = `
  const [el, done] = arguments;
  let left = 30;
  let before = '';
  const look = () => {
    const { x, y, width } = el.getBoundingClientRect();
    const now = [x, y, width].join();
    if (now === before || left-- === 0) done();
    else { before = now; requestAnimationFrame(look); }
  };
  look();`;

/**
 * Only a click that lands in the element is let through: what moves between the aim and the click is not pressed instead.
 * Says afterwards, as window.missed, whether one was kept away.
 */
const ONLY_THIS = `
  const [el] = arguments;
  window.missed = false;
  const kinds = ['pointerdown', 'mousedown', 'pointerup', 'mouseup', 'click'];
  const guard = (e) => {
    if (!el.contains(e.target) && !(el instanceof HTMLLabelElement && el.control === e.target)) {
      window.missed = true;
      e.preventDefault();
      e.stopImmediatePropagation();
    }
    if (e.type === 'click') window.unguard();
  };
  window.unguard?.();
  window.unguard = () => kinds.forEach((k) => window.removeEventListener(k, guard, true));
  kinds.forEach((k) => window.addEventListener(k, guard, true));`;
const MISSED = 'window.unguard?.(); return window.missed === true';

/** Whether the page says something, now or within so many ms. Looked at ten times a second, by the page itself. */
const SHOWS = `
  const [text, ms, done] = arguments;
  const end = performance.now() + ms;
  const look = () => {
    if (document.body?.textContent.replace(/\\s+/g, ' ').includes(text)) done(true);
    else if (performance.now() > end) done(false);
    else setTimeout(look, 100);
  };
  look();`;
/** A page looks for so long before the driver asks again, ms: under its own limit for a script. */
const SLICE_MS = 8000;

/** Headless Chromium from Debian's packages, with what the browser tests and the pictures need. */
export async function openBrowser(base, dir = tmpdir()) {
  const profile = mkdtempSync(join(dir, 'jb-chrome-'));
  const options = new Options();
  options.setChromeBinaryPath(which('chromium'));
  options.addArguments(
    '--headless=new',
    '--no-sandbox',
    '--disable-dev-shm-usage',
    '--disable-gpu',
    '--hide-scrollbars',
    '--force-prefers-reduced-motion',
    '--force-color-profile=srgb',
    '--force-device-scale-factor=1',
    '--window-size=1280,800',
    '--lang=en-US',
    '--no-first-run',
    '--no-default-browser-check',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--disable-default-apps',
    '--disable-extensions',
    '--disable-domain-reliability',
    '--disable-breakpad',
    '--metrics-recording-only',
    '--no-pings',
    '--password-store=basic',
    `--user-data-dir=${profile}`,
    '--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost',
  );
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(
      new ServiceBuilder(which('chromedriver'))
        .loggingTo(join(profile, 'driver.log'))
        .addArguments('--log-level=SEVERE'),
    )
    .build();
  const find = (by, ms = WAIT_MS) => driver.wait(until.elementLocated(by), ms, `not found: ${by}`);
  const literal = (s) => (s.includes("'") ? `"${s}"` : `'${s}'`);
  return {
    driver,
    base,
    go: (path) => driver.get(base + path),
    find,
    /** Wait until the page shows a text. */
    text: async (s, ms = WAIT_MS) => {
      const end = Date.now() + ms;
      for (;;) {
        const left = Math.max(0, Math.min(SLICE_MS, end - Date.now()));
        // Another page came meanwhile: looked at there.
        const shows = await driver.executeAsyncScript(SHOWS, s, left).catch(() => null);
        if (shows) return;
        if (Date.now() >= end) break;
        if (shows === null) await new Promise((r) => setTimeout(r, 50));
      }
      // What it says instead tells more than that it does not say this.
      const shown = await driver.executeScript(
        'return (document.querySelector("main") ?? document.body).innerText.slice(0, 1200)',
      );
      throw new Error(`the page does not say “${s}” within ${ms} ms\nThe page says: ${shown}`);
    },
    /** Press the button or link whose name contains the text, or one of several, once it is enabled. */
    async press(name, css = 'button, a, summary') {
      const deadline = Date.now() + WAIT_MS;
      for (;;) {
        try {
          const left = Math.max(0, Math.min(SLICE_MS, deadline - Date.now()));
          const el = await driver.executeAsyncScript(PRESSABLE, css, [name].flat(), left);
          if (el) {
            await driver.executeScript('arguments[0].scrollIntoView({block: "center"})', el);
            await driver.executeAsyncScript(STANDS_STILL, el);
            await driver.executeScript(ONLY_THIS, el);
            await el.click();
            const missed = await driver.executeScript(MISSED);
            // A caution that is acknowledged folds up once the server has it: what stands below moves then.
            if (!missed && [name].flat().includes('Understood')) await driver.wait(until.stalenessOf(el), WAIT_MS);
            if (!missed) return;
          }
        } catch (e) {
          if (!/stale|intercepted|no such element|unloaded|detached/i.test(String(e.message))) throw e;
        }
        if (Date.now() > deadline) throw new Error(`nothing to press called "${name}"`);
        await new Promise((r) => setTimeout(r, 50));
      }
    },
    async fill(label, value) {
      const el = await find(
        By.xpath(
          `//*[self::input or self::textarea or self::select][ancestor::label[contains(normalize-space(.), ${literal(label)})] or @id = //label[contains(normalize-space(.), ${literal(label)})]/@for]`,
        ),
      );
      await driver.executeScript('arguments[0].scrollIntoView({block: "center"})', el);
      // What has just changed its meaning takes nothing for a moment.
      await driver.wait(() => driver.executeScript("return !arguments[0].closest('[inert]')", el), WAIT_MS);
      if ((await el.getTagName()) === 'select')
        await el.findElement(By.xpath(`.//option[contains(normalize-space(.), ${literal(value)})]`)).click();
      else {
        await el.clear();
        await el.sendKeys(Key.chord(Key.CONTROL, 'a'), value);
        // The first of what is left of a long list.
        if ((await el.getAttribute('role')) === 'combobox') await el.sendKeys(Key.ENTER);
      }
    },
    size: (width, height) =>
      driver.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
        width,
        height,
        deviceScaleFactor: 1,
        mobile: width < 600,
      }),
    /** Fonts loaded and two frames painted. */
    settle: () =>
      driver.executeAsyncScript(
        'const done = arguments[0]; document.fonts.ready.then(() => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 150))))',
      ),
    /** What the API answers whom the page is signed in as. Asked past the page: a poll through it costs ten times more. */
    json: async (path) => {
      const cookie = (await driver.manage().getCookies()).map((c) => `${c.name}=${c.value}`).join('; ');
      return fetch(base + path, { headers: { cookie } })
        .then((r) => r.json())
        .catch(String);
    },
    /** A write through the page, as its own scripts would make it. */
    post: (path, body) =>
      driver.executeAsyncScript(
        `const [path, body, done] = arguments;
         fetch('/api' + path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
           .then((r) => r.json()).then(done, (e) => done(String(e)))`,
        path,
        body,
      ),
    allowNotifications: (origin) =>
      driver.sendDevToolsCommand('Browser.grantPermissions', { origin, permissions: ['notifications'] }),
    forget: (origin) =>
      driver.sendDevToolsCommand('Storage.clearDataForOrigin', {
        origin,
        storageTypes: 'cookies,local_storage,indexeddb',
      }),
    /** One command of the browser's own protocol, and what it answers. */
    devTools: (command, params) => driver.sendAndGetDevToolsCommand(command, params),
    async dark() {
      const el = await find(By.css('[aria-label="Dark colours"], [aria-label="Light colours"]'));
      await el.click();
    },
    async close() {
      await driver.quit().catch(() => {});
      rmSync(profile, { recursive: true, force: true });
    },
  };
}
