import { chromium } from 'playwright';

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
const p = await b.newPage({ viewport: { width: 1280, height: 800 } });
await p.goto('http://127.0.0.1:4620/episodes/' + process.argv[2]);
await p.waitForTimeout(4000);
const s = await p.context().newCDPSession(p);
await s.send('Profiler.enable');
await s.send('Profiler.setSamplingInterval', { interval: 200 });
await s.send('Profiler.start');
const times = await p.evaluate(async () => {
  const slider = [...document.querySelectorAll('input[type=range]')].find((i) => i.labels?.[0]?.textContent === 'Shortest pause');
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
  for (let k = 0; k < 120; k++) {
    set.call(slider, String(0.3 + (k % 40) * 0.05));
    slider.dispatchEvent(new Event('input', { bubbles: true }));
    await new Promise((r) => setTimeout(r, 50));
  }
  return performance.getEntriesByName('zetemis:step:painted').map((e) => e.duration);
});
const { profile } = await s.send('Profiler.stop');
times.splice(0, 10);
times.sort((a, b) => a - b);
console.log('median', times[times.length >> 1].toFixed(1), 'p95', times[Math.floor(times.length * 0.95)].toFixed(1));
const nodes = new Map(profile.nodes.map((n) => [n.id, n]));
const self = new Map();
profile.samples.forEach((id, i) => {
  const n = nodes.get(id);
  const k =
    n.callFrame.functionName +
    ' ' +
    n.callFrame.url.split('/').pop() +
    ':' +
    n.callFrame.lineNumber +
    ':' +
    n.callFrame.columnNumber;
  self.set(k, (self.get(k) ?? 0) + profile.timeDeltas[i]);
});
console.log(
  [...self]
    .sort((a, b) => b[1] - a[1])
    .slice(0, 28)
    .map(([k, v]) => (v / 1000 / 120).toFixed(2) + ' ms/step ' + k)
    .join('\n'),
);
if (process.argv[3]) {
  for (const name of ['threshold', 'shortest pause']) {
    await p.evaluate(() => {
      for (const d of document.querySelectorAll('details')) if (d.textContent.startsWith('What if')) d.open = true;
      performance.clearMarks('zetemis:what-if');
    });
    const t = Date.now();
    await p.getByRole('radio', { name }).check({ force: true });
    await p.waitForFunction(
      (n) => performance.getEntriesByName('zetemis:what-if').some((m) => m.detail.name === n && m.detail.points === 60),
      name === 'threshold' ? 'threshold' : 'minPause',
    );
    console.log('what-if', name, Date.now() - t);
    await p.waitForTimeout(300);
    console.log(
      await p.evaluate(() => [...document.querySelectorAll('figure')].map((f) => f.getAttribute('aria-label')).join(' | ')),
    );
  }
}
await b.close();
