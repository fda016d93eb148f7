import { chromium } from 'playwright';

const [, , url, out, theme = 'paper', ...acts] = process.argv;
const b = await chromium.launch({
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
});
const p = await (await b.newContext({ viewport: { width: +(process.env.W ?? 1280), height: 800 } })).newPage();
p.on('console', (m) => {
  if (m.type() === 'error') console.log('console', m.text());
});
p.on('pageerror', (e) => console.log('pageerror', e.message));
await p.addInitScript((t) => localStorage.setItem('zetemis.theme', t), theme);
await p.goto(url);
await p.waitForTimeout(2500);
for (const a of acts) {
  const i = a.indexOf(':');
  const k = a.slice(0, i),
    v = a.slice(i + 1);
  if (k === 'click')
    await p
      .getByText(v, { exact: true })
      .first()
      .click({ timeout: 4000 })
      .catch((e) => console.log('noclick', v, e.message.split('\n')[0]));
  if (k === 'key') await p.keyboard.press(v);
  if (k === 'wait') await p.waitForTimeout(+v);
  if (k === 'eval') console.log(JSON.stringify(await p.evaluate(v)));
  if (k === 'scroll') await p.evaluate((y) => (document.querySelector('#tray').scrollTop = y), +v);
  if (k === 'fold')
    await p.evaluate((t) => {
      for (const d of document.querySelectorAll('details')) if (d.textContent.startsWith(t)) d.open = true;
    }, v);
  if (k === 'shot') await p.screenshot({ path: v });
}
if (out !== '-') await p.screenshot({ path: out });
await b.close();
