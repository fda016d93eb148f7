import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { strToU8, zipSync } from 'fflate';
import { makeConversation } from '../conversation.ts';
import { makeTalk } from '../media.ts';
import { writeTinyModel, writeTones } from '../tinyModel.ts';
import { broken, dropOn, expect, figure, measured, saved, test, undo } from './app.ts';

const tray = (page: Page) => page.getByRole('tab', { name: 'Words' }).click();
const bar = (page: Page) => page.getByRole('region', { name: 'Selected words' });
const entry = (page: Page, name: string) => page.locator(`[data-entry="${name}"]`);
/** A place on a word of the score: `share` of the way along a row. */
async function onRow(page: Page, row: number, share: number): Promise<{ x: number; y: number }> {
  const box = await page.locator('section[aria-label="Score"] canvas').nth(row).boundingBox();
  if (!box) throw new Error('no row');
  return { x: box.x + box.width * share, y: box.y + 62 };
}
const transcript = async (address: string, id: string, query: string) =>
  (await fetch(`${address}/api/episodes/${id}/transcript?${query}`)).text();

test('fillers are counted by entry, opened in context, put back one by one and all at once', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  await tray(page);
  const ums = entry(page, 'um');
  await expect(ums).toContainText('4 of 4');
  const before = await figure(page, 'programme').textContent();
  await ums.getByRole('button', { name: 'um', exact: true }).click();
  const places = page.getByRole('list', { name: 'Places of um' });
  await expect(places).toContainText('worn,');
  await places.getByRole('button', { name: 'put back' }).first().click();
  await expect(ums).toContainText('3 of 4');
  await expect(page.getByLabel('Looked at now')).toContainText('Filler: um');
  await expect(page.getByLabel('Looked at now')).toContainText('a hesitation');
  await expect(page.getByLabel('Looked at now')).toContainText(/Steps at its seam: level \d+ dB/);
  await ums.getByRole('button', { name: 'Leave in all of um' }).click();
  await expect(ums).toContainText('0 of 4');
  await ums.getByRole('button', { name: /Take out all of um/ }).click();
  await expect(ums).toContainText('4 of 4');
  await saved(page);
  await page.reload();
  await tray(page);
  await expect(entry(page, 'um')).toContainText('4 of 4');
  await undo(page, 3);
  await expect(figure(page, 'programme')).toHaveText(before ?? '');
});

test('keys step from filler to filler, and each is heard when asked', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  await tray(page);
  await page.getByLabel('play each when stepping').check();
  const card = page.getByLabel('Looked at now');
  const names: string[] = [];
  for (let step = 0; step < 3; step++) {
    const before = names.at(-1) ?? '';
    await page.keyboard.press('f');
    await expect(card).toContainText('Filler: ');
    await expect.poll(async () => (await card.textContent()) !== before).toBe(true);
    names.push((await card.textContent()) ?? '');
    if (step === 0) await expect(page.getByRole('button', { name: 'Play or stop' })).toHaveAttribute('aria-pressed', 'true');
  }
  expect(names.join(' ')).toContain('Filler: um');
  await page.keyboard.press('d');
  await expect(card).toContainText(/Filler: [a-z]{2,4}/.exec(names[1] as string)?.[0] ?? 'a filler');
});

test('words are selected by click, shift, drag, line, sentence and key, and taken out and put back', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const before = await figure(page, 'programme').textContent();
  const place = await onRow(page, 1, 0.1);
  await page.mouse.dblclick(place.x, place.y);
  await expect(bar(page)).toContainText('1 word,');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(bar(page)).toContainText('2 words');
  await page.keyboard.press('Shift+ArrowLeft');
  await expect(bar(page)).toContainText('1 word,');
  await page.keyboard.press('u');
  await expect(bar(page)).toContainText('Today we bring an old carriage clock back to life');
  await page.keyboard.press('t');
  await expect(figure(page, 'programme')).not.toHaveText(before ?? '');
  await page.mouse.dblclick(place.x, place.y);
  await page.keyboard.press('u');
  await page.keyboard.press('r');
  await expect(figure(page, 'programme')).toHaveText(before ?? '');
  await page.mouse.dblclick(place.x, place.y);
  const further = await onRow(page, 1, 0.3);
  await page.keyboard.down('Shift');
  await page.mouse.click(further.x, further.y);
  await page.keyboard.up('Shift');
  await expect(bar(page)).toContainText(/[4-9] words/);
  const canvas = await page.locator('section[aria-label="Score"] canvas').nth(1).boundingBox();
  await page.mouse.click((canvas?.x ?? 0) - 20, (canvas?.y ?? 0) + 40);
  await expect(bar(page)).toContainText(/2\d words/);
  await undo(page, 2);
});

test('a word is corrected, split and joined; time stays, and what is exported follows', async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  const before = await figure(page, 'programme').textContent();
  const place = await onRow(page, 1, 0.1);
  const write = async (text: string) => {
    await page.keyboard.press('Enter');
    await page.getByLabel('Write these words anew').fill(text);
    await page.keyboard.press('Enter');
    await saved(page);
  };
  await page.mouse.dblclick(place.x, place.y);
  const original = (await bar(page).locator('p').textContent()) ?? '';
  await write('Wednesdays everywhere');
  await expect(bar(page)).toContainText('Wednesdays everywhere');
  expect(await transcript(app.address, id, 'format=txt')).toContain('Wednesdays everywhere');
  await expect(figure(page, 'programme')).toHaveText(before ?? '');
  await write('we');
  await expect(bar(page)).toContainText('1 word,');
  await bar(page)
    .getByRole('button', { name: /^Out of the text/ })
    .click();
  await saved(page);
  expect(await transcript(app.address, id, 'format=txt')).not.toContain('Wednesdays');
  await undo(page, 3);
  expect(await transcript(app.address, id, 'format=txt')).toContain(original);
});

test('finds as one types, steps, replaces everywhere and takes all out, each undone in one go', async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  const before = await figure(page, 'programme').textContent();
  await page.keyboard.press('Control+f');
  await expect(page.getByLabel('Find words')).toBeFocused();
  await page.keyboard.type('GLUE');
  await expect(figure(page, 'found-words')).toHaveText('1 of 2');
  await page.keyboard.press('Enter');
  await expect(figure(page, 'found-words')).toHaveText('2 of 2');
  await expect(bar(page)).toContainText('glue');
  await expect(page.getByRole('img', { name: /glue, and that is the, the/ })).toBeInViewport();
  await page.getByLabel('Write instead').fill('gum');
  await page.getByRole('button', { name: 'Replace all 2' }).click();
  await expect(page.getByText('2 places written anew.')).toBeVisible();
  await saved(page);
  const text = await transcript(app.address, id, 'format=txt');
  expect(text).toContain('turned to gum,');
  expect(text).not.toContain('glue');
  await page.getByLabel('Find words').fill('gum');
  await page.getByRole('button', { name: 'Take out all 2' }).click();
  await expect(figure(page, 'programme')).not.toHaveText(before ?? '');
  await page.getByLabel('Find words').press('Escape');
  await page.getByRole('region', { name: 'Score' }).focus();
  await undo(page, 2);
  await expect(figure(page, 'programme')).toHaveText(before ?? '');
});

test('the words alone can be read, selected and decided, and the word that is spoken is marked', async ({ page, app }) => {
  await app.episode(page, 'fog and birds');
  await page.getByRole('button', { name: 'Words alone' }).click();
  const reading = page.getByRole('region', { name: 'Words alone' });
  await expect(reading).toContainText('Good evening from the lamp room');
  await expect(reading).toContainText('Isolde');
  const word = (index: number) => reading.locator(`[data-word="${index}"]`);
  await word(3).click();
  await word(5).click({ modifiers: ['Shift'] });
  await expect(bar(page)).toContainText('3 words');
  await page.keyboard.press('t');
  await expect(word(4)).toHaveClass(/line-through/);
  await undo(page);
  await expect(word(4)).not.toHaveClass(/line-through/);
  const from = await word(0).boundingBox();
  const to = await word(4).boundingBox();
  if (!from || !to) throw new Error('no words');
  await page.mouse.move(from.x + 3, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(to.x + 3, to.y + 8, { steps: 5 });
  await page.mouse.up();
  await expect(bar(page)).toContainText('5 words');
  await word(0).click();
  await page.keyboard.press('Space');
  await expect(reading.locator('[data-word][style*="ink-spoken"]')).toHaveCount(1, { timeout: 10_000 });
  await page.keyboard.press('Space');
  for (const theme of ['paper', 'booth']) {
    await tray(page);
    expect(await broken(page, theme)).toEqual([]);
  }
});

test('the lexicon takes other words and languages, and a file', async ({ page, app }, info) => {
  await app.episode(page, 'carriage clock');
  await tray(page);
  await page.getByText('Lexicon', { exact: true }).click();
  await page.getByLabel('Another word or phrase').fill('The oil');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByRole('list', { name: 'Entries' })).toContainText('the oil');
  await page.getByLabel('How surely “the oil” is a filler').selectOption('always');
  await expect(entry(page, 'the oil')).toContainText(/[1-9] of/);
  await page.getByLabel('How surely “um” is a filler').selectOption('off');
  await expect(entry(page, 'um')).toHaveCount(0);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'To a file' }).click();
  const file = info.outputPath('own.lexicon.json');
  await (await download).saveAs(file);
  expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({ schema: 'zetemis.lexicon/1', language: 'en' });
  await undo(page, 3);
  await expect(entry(page, 'um')).toContainText('4 of 4');
  await page.getByLabel('Lexicon file').setInputFiles(file);
  await expect(entry(page, 'the oil')).toContainText(/[1-9] of/);
  await page.getByRole('button', { name: 'As shipped' }).click();
  await page.getByLabel('Code of another language').fill('fi');
  await page.getByRole('button', { name: 'Add language' }).click();
  await expect(page.getByRole('list', { name: 'Entries' })).toContainText('No entries yet for suomi');
  await undo(page, 2);
});

test('words are recognised with progress, cancelled and gone on with, and the transcript of another format is taken', async ({
  page,
  app,
}) => {
  await app.episode(page, 'carriage clock');
  await tray(page);
  await page.getByText(/^The words: \d+/).click();
  await page.getByLabel('Recogniser').selectOption('stand-in');
  await page.getByRole('button', { name: 'Recognise' }).click();
  // However the tray is folded.
  await page.getByText(/^The words: \d+/).click();
  await expect(page.getByText(/Listening for words|waiting for a turn/)).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await page.getByText(/^The words: \d+/).click();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.getByRole('button', { name: 'Recognise' })).toBeVisible({ timeout: 30_000 });
  await expect(entry(page, 'um')).toContainText('4 of 4');
  const words = page.getByLabel('Transcript file');
  await words.setInputFiles({ name: 'bad.vtt', mimeType: 'text/vtt', buffer: Buffer.from('WEBVTT\n\n00:x --> 3\nno\n') });
  await expect(page.getByRole('alert')).toContainText(/line 3.*Nothing was changed/i);
  const demo = join(import.meta.dirname, '..', '..', 'demo', 'media', 'carriage-clock.words.json');
  await words.setInputFiles(demo);
  await expect(page.getByText(/words brought in/)).toBeVisible();
});

test('words by another clock are moved, and those of another recording find nothing', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  await tray(page);
  await expect(entry(page, 'um')).toContainText('4 of 4');
  const file = (name: string) => join(import.meta.dirname, '..', '..', 'demo', 'media', `${name}.words.json`);
  const known: { words: { start: number; end: number }[] } = JSON.parse(readFileSync(file('carriage-clock'), 'utf8'));
  const late = known.words.map((word) => ({ ...word, start: word.start + 62.5, end: word.end + 62.5 }));
  const transcript = page.getByLabel('Transcript file');
  await page.getByText(/^The words: \d+/).click();
  await transcript.setInputFiles({
    name: 'late.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify({ ...known, words: late })),
  });
  await expect(page.getByText(/stood 62\.\d+ s late throughout, and were moved to where they are heard/)).toBeVisible();
  await expect(entry(page, 'um')).toContainText('4 of 4');
  await expect(page.getByText('No word is in doubt.')).toBeVisible();

  await transcript.setInputFiles(file('fog-and-birds'));
  await expect(page.getByText(/of 650 words are not said where they stand, as if they were of another recording/)).toHaveCount(2);
  await expect(entry(page, 'um')).toHaveCount(0);
  await expect(page.getByText(/\d+ words may be misheard/)).toBeVisible();
  await transcript.setInputFiles(file('carriage-clock'));
  await expect(entry(page, 'um')).toContainText('4 of 4');
  await expect(page.getByText(/are not said where they stand/)).toHaveCount(0);
});

test('words of lines are found in the sound, and words that stand elsewhere wherever they are said', async ({ page, app }) => {
  test.setTimeout(300_000);
  await app.episode(page, 'carriage clock');
  await tray(page);
  const file = join(import.meta.dirname, '..', '..', 'demo', 'media', 'carriage-clock.words.json');
  const known: { words: { text: string; start: number; end: number }[] } = JSON.parse(readFileSync(file, 'utf8'));
  const time = (at: number) => new Date(1000 * at).toISOString().slice(11, 23).replace('.', ',');
  const lines = Array.from({ length: Math.ceil(known.words.length / 8) }, (_, k) => known.words.slice(8 * k, 8 * k + 8));
  const captions = lines.map((line, k) => {
    const text = line.map((word) => word.text).join(' ');
    return `${k + 1}\n${time(line[0]?.start ?? 0)} --> ${time(line.at(-1)?.end ?? 0)}\n${text}\n`;
  });
  const chosen = page.getByLabel('Transcript file');
  await page.getByText(/^The words: \d+/).click();
  await chosen.setInputFiles({ name: 'lines.srt', mimeType: 'text/plain', buffer: Buffer.from(captions.join('\n')) });
  await expect(page.getByText(/Finding each word|waiting for a turn/)).toBeVisible();
  await expect(page.getByText(/Finding each word|waiting for a turn/)).toHaveCount(0, { timeout: 90_000 });
  await expect(entry(page, 'um')).toContainText('4 of 4');

  // As in a version from which half a minute had been cut.
  const cut = known.words
    .filter(({ start, end }) => end < 60 || start > 90)
    .map((word) => (word.start > 90 ? { ...word, start: word.start - 30, end: word.end - 30 } : word));
  await chosen.setInputFiles({
    name: 'cut.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify({ ...known, words: cut })),
  });
  const note = page.getByRole('alert').filter({ hasText: 'are not said where they stand' });
  await expect(note).toBeVisible();
  await page.getByRole('button', { name: 'Look for them in all of the sound' }).press('Enter');
  await expect(page.getByText('Listening for words')).toBeVisible();
  await expect(note).toHaveCount(0, { timeout: 180_000 });
  await expect(page.getByText(/Finding each word|waiting for a turn/)).toHaveCount(0, { timeout: 90_000 });
  const id = page.url().split('/').at(-1) ?? '';
  const found: { words: { text: string; start: number }[] } = JSON.parse(await transcript(app.address, id, 'format=json'));
  const kept = known.words.filter(({ start, end }) => end < 60 || start > 90);
  expect(found.words.map(({ text }) => text)).toEqual(kept.map(({ text }) => text));
  const near = found.words.filter(({ start }, k) => Math.abs(start - (kept[k]?.start ?? 0)) < 0.1);
  expect(near.length).toBeGreaterThan(0.85 * kept.length);
});

test('a recording without words says what to do, and a service that is not set says why', async ({ page, app }) => {
  makeTalk(join(app.mediaFolder, 'hum.wav'), [2, 1, 3]);
  const { entries } = await app.json('/api/folder');
  const { id } = await app.json('/api/episodes', 'POST', {
    from: 'folder',
    entry: entries.find(({ path }: { path: string }) => path === 'hum.wav').entry,
  });
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await tray(page);
  await expect(page.getByText('There are no words yet.')).toBeVisible();
  await page.getByLabel('Recogniser').selectOption('remote');
  await expect(page.getByText('No service is set: start with ZETEMIS_RECOGNISER_URL.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Recognise' })).toBeDisabled();
  await page.getByLabel('Recogniser').selectOption('stand-in');
  await page.getByRole('button', { name: 'Recognise' }).click();
  await expect(page.getByRole('alert')).toContainText('The stand-in knows the demo recordings alone', { timeout: 20_000 });

  // What language the words are in is told by them, and put right by hand: fillers go by it.
  const cues = [
    '1\n00:00:00,000 --> 00:00:02,000\nGuten Morgen aus der Werkstatt, heute öffnen wir, ähm, die alte',
    '2\n00:00:03,000 --> 00:00:06,000\nWanduhr, und er sagt, sie geht jeden Tag zwei Minuten vor und niemand weiß warum.',
  ];
  await page
    .getByLabel('Transcript file')
    .setInputFiles({ name: 'uhr.srt', mimeType: 'text/plain', buffer: Buffer.from(`${cues.join('\n\n')}\n`, 'latin1') });
  await expect(page.getByText(/words brought in \(Deutsch\)/)).toBeVisible();
  await expect(page.getByText('The file is not in UTF-8')).toBeVisible();
  await expect(entry(page, 'ähm')).toContainText('of 1');
  await page.getByText(/^The words: \d+/).click();
  await page.getByLabel('They are in').selectOption('sv');
  await expect(page.getByText('No fillers ship for this language')).toBeVisible();
  await expect(entry(page, 'ähm')).toHaveCount(0);
  await page.reload();
  await tray(page);
  await page.getByText(/^The words: \d+/).click();
  await expect(page.getByLabel('They are in')).toHaveValue('sv');
  await page.getByLabel('They are in').selectOption('de');
  await expect(entry(page, 'ähm')).toContainText('of 1');

  // What was written over silence is worth reading again, however sure it was.
  const said = (text: string, start: number) => ({ text, start, end: start + 0.2, confidence: 0.95 });
  const words = [said('Right', 0.3), said('thanks', 2.15), said('for', 2.4), said('watching', 2.65)];
  await page.getByLabel('Transcript file').setInputFiles({
    name: 'over.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify({ language: 'en', words })),
  });
  await expect(page.getByText('3 words may be misheard.')).toBeVisible();

  // A text that was written in a word processor is as good as any other; another archive is refused.
  const document = (path: string) =>
    zipSync({
      [path]: strToU8(
        '<w:document><w:body><w:p><w:r><w:t>[0:00] Isolde: good evening</w:t></w:r></w:p><w:p><w:r><w:t>[0:03] Tobit: and fog</w:t></w:r></w:p></w:body></w:document>',
      ),
    });
  const mimeType = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document';
  const brought = page.getByLabel('Transcript file');
  await brought.setInputFiles({ name: 'fog.docx', mimeType, buffer: Buffer.from(document('other.xml')) });
  await expect(page.getByText(/^This is an archive.*Nothing was changed\.$/)).toBeVisible();
  // Dropped anywhere on the page, it is brought as well.
  await page.getByRole('tab', { name: 'Pauses' }).click();
  await dropOn(page.getByRole('region', { name: 'Score' }), {
    name: 'hum.docx',
    bytes: Buffer.from(document('word/document.xml')),
  });
  await expect(page.getByRole('tab', { name: 'Words' })).toHaveAttribute('aria-selected', 'true');
  await expect(page.getByText(/^4 words brought in/)).toBeVisible();
  // On the shelf it has no episode to go to.
  await page.goto(app.address);
  await dropOn(page.getByRole('region', { name: 'Bring in a recording' }), { name: 'hum.srt', bytes: Buffer.from('1') });
  await expect(page.getByRole('alert').filter({ hasText: 'hum.srt' })).toContainText('Words belong to an episode');
  await app.json(`/api/episodes/${id}`, 'DELETE');
});

test('speakers get names, the least sure word comes first, and words are handed over masked', async ({ page, app }) => {
  const id = await app.episode(page, 'fog and birds');
  await tray(page);
  await page.getByText('Speakers', { exact: true }).click();
  const name = page.getByLabel(/^Name of Isolde/);
  await name.fill('Keeper One');
  await name.press('Enter');
  await saved(page);
  expect(await transcript(app.address, id, 'format=txt')).toContain('Keeper One: Good evening');
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await page.getByRole('radio', { name: 'player' }).check();
  await page.getByText('Captions and words', { exact: true }).click();
  await page.getByLabel('mask words of the list').check();
  await page.getByLabel('Words to mask').fill('evening, lamp');
  await page.getByRole('button', { name: 'Keep this list' }).click();
  await expect(page.getByText('Kept for all episodes')).toBeVisible();
  const download = page.waitForEvent('download');
  await page
    .getByRole('link', { name: /\.vtt$/ })
    .first()
    .click();
  const text = readFileSync(await (await download).path(), 'utf8');
  expect(text).toMatch(/^WEBVTT/);
  expect(text).toContain('e******');
  expect(text).not.toMatch(/>um\b/);
  expect(await transcript(app.address, id, 'format=txt&mask=no')).toContain('evening');
  await app.json('/api/masks', 'PUT', { language: 'en', words: [] });
  await page.getByLabel('mask words of the list').uncheck();
  await page.getByRole('radio', { name: 'editing program' }).check();
  await page.getByRole('tab', { name: 'Words' }).click();
  await page.getByRole('region', { name: 'Score' }).focus();
  await undo(page);
});

test('people on one microphone are told apart by their voices, and named', async ({ page, app }) => {
  const { turns } = makeConversation(app.mediaFolder, 'bench-talk', ['slt', 'kal16'], 12);
  const { entries } = await app.json('/api/folder');
  const { id } = await app.json('/api/episodes', 'POST', {
    from: 'folder',
    entry: entries.find(({ path }: { path: string }) => path === 'bench-talk.wav').entry,
  });
  const words = turns.map(({ start, end, who }) => ({ text: `said${who}`, start, end }));
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await app.json(`/api/episodes/${id}/words`, 'PUT', { text: JSON.stringify({ language: 'en', words }) });
  await tray(page);
  await page.getByText('Speakers', { exact: true }).click();
  await page.getByRole('button', { name: 'Tell them apart' }).click();
  const second = page.getByLabel('Name of Voice 2');
  await expect(second).toBeVisible({ timeout: 60_000 });
  await expect(page.getByLabel('Name of Voice 1')).toBeVisible();
  await expect(page.getByLabel('Name of Voice 3')).toBeHidden();
  await second.fill('Tobit Fenn');
  await second.press('Enter');
  await expect(page.getByLabel('Name of Tobit Fenn')).toBeVisible();
  await saved(page);
  const { words: told } = JSON.parse(await transcript(app.address, id, 'format=json&mask=no'));
  expect(new Set(told.map(({ text, speaker }: { text: string; speaker: string }) => `${text} ${speaker}`))).toEqual(
    new Set(['said0 Voice 1', 'said1 Tobit Fenn']),
  );
  // Where two speak at once is shown, and gone through.
  const together = told.map((word: object, k: number) => (k === 3 ? { ...word, overlapped: true } : word));
  await app.json(`/api/episodes/${id}/words`, 'PUT', { text: JSON.stringify({ language: 'en', words: together }) });
  await expect(page.getByText('Two at once: 1 place')).toBeVisible();
  await page.getByTitle('Selects the next place where two speak at once').click();
  await expect(page.getByLabel('Looked at now')).toContainText('Selected');
  await expect(page.getByRole('img', { name: 'Tobit Fenn: said1' }).first()).toBeVisible();
  // What is selected can be somebody else's, who was not in the list.
  await page.getByLabel('Name of somebody else who speaks').fill('Marn Quill');
  await page.getByLabel('Name of somebody else who speaks').press('Enter');
  await expect(page.getByLabel('Name of Marn Quill')).toBeVisible();
  await saved(page);
  await app.json(`/api/episodes/${id}`, 'DELETE');
});

test('a model is brought by its address, hears the next recording, and is taken away', async ({ page, app }) => {
  const tones = Array.from({ length: 12 }, (_, k) => [k % 2 === 0 ? '▁tick' : '▁tock', 1 + 2 * k, 1.4 + 2 * k] as const);
  writeTones(join(app.mediaFolder, 'tones.wav'), 26, ...tones);
  const source = join(app.folder, 'tones');
  mkdirSync(source);
  writeTinyModel(source);
  const archive = join(app.folder, 'tones.tar.bz2');
  execFileSync('tar', ['-cjf', archive, '-C', app.folder, 'tones']);
  const server = createServer((request, response) => {
    const isThere = request.url === '/tones.tar.bz2';
    response.writeHead(isThere ? 200 : 404).end(isThere ? readFileSync(archive) : undefined);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const at = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const { entries } = await app.json('/api/folder');
  const { id } = await app.json('/api/episodes', 'POST', {
    from: 'folder',
    entry: entries.find(({ path }: { path: string }) => path === 'tones.wav').entry,
  });
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await tray(page);
  await expect(page.getByLabel('Recogniser')).toHaveValue('local');
  await page.getByText('Models on this machine').click();
  await expect(page.getByText('None is here yet.')).toBeVisible();
  await expect(page.getByText(/\d (GB|MB) of room on the server/)).toBeVisible();
  await page.getByText('Which one fits').click();
  await expect(page.getByText('CTC or transducer, 30 to 700 MB')).toBeVisible();
  const add = async (address: string) => {
    await page.getByLabel('Address of a model').fill(address);
    await page.getByRole('button', { name: 'Add', exact: true }).click();
  };
  await add(`${at}/nothing.zip`);
  await expect(page.getByRole('alert')).toContainText('The address answered 404.');
  await page.getByRole('button', { name: 'All right' }).click();
  await page.getByLabel('SHA-256').fill('ab'.repeat(32));
  await add(`${at}/tones.tar.bz2`);
  await expect(page.getByRole('alert')).toContainText('not the one that was meant');
  await page.getByRole('button', { name: 'All right' }).click();
  await add(`${at}/tones.tar.bz2`);
  await expect(page.getByRole('list', { name: 'Models here' })).toContainText(/tones.*CTC, 1 MB, any language/, {
    timeout: 30_000,
  });
  // It hears tones and no English: the last resort stays first.
  await expect(page.getByLabel('Recogniser')).toHaveValue('local');
  await page.getByLabel('Recogniser').selectOption('model');
  await expect(page.getByText(/hears 0 words in 100 right/)).toBeVisible();
  expect(await broken(page)).toEqual([]);
  await page.getByRole('button', { name: 'Recognise' }).click();
  await expect(page.getByText('The words: 12')).toBeVisible({ timeout: 60_000 });
  const text = await transcript(app.address, id, 'format=text&mask=no');
  expect(text.match(/tick|tock/g)).toHaveLength(12);
  await page.getByText('The words: 12').click();
  await page.getByText('Models on this machine').click();
  const remove = async () => {
    await page.getByRole('button', { name: 'Remove the model tones' }).click();
    await expect(page.getByText('None is here yet.')).toBeVisible();
  };
  await remove();
  await expect(page.getByLabel('Recogniser')).toHaveValue('local');

  // A file of one's own is sent, tried like any other, and forgotten, whatever comes of it.
  const file = page.getByLabel('File of a model');
  await page.getByLabel('SHA-256').fill('no digest');
  await file.setInputFiles(archive);
  await expect(page.getByLabel('SHA-256')).toBeFocused();
  await page.getByLabel('SHA-256').fill('');
  await page.getByLabel('Languages').fill('english?');
  await file.setInputFiles(archive);
  await expect(page.getByLabel('Languages')).toBeFocused();
  await page.getByLabel('Languages').fill('');
  await file.setInputFiles({ name: 'fog & lamps.zip', mimeType: 'application/zip', buffer: Buffer.from('no archive at all') });
  await expect(page.getByRole('alert')).toContainText('is no name for a model');
  await page.getByRole('button', { name: 'All right' }).click();
  await file.setInputFiles({ name: 'fog.zip', mimeType: 'application/zip', buffer: Buffer.from('no archive at all') });
  await expect(page.getByRole('alert')).toContainText('This is no archive that can be read');
  await page.getByRole('button', { name: 'All right' }).click();
  await file.setInputFiles(archive);
  await expect(page.getByRole('list', { name: 'Models here' })).toContainText(/tones.*CTC, 1 MB, any language/, {
    timeout: 30_000,
  });
  await expect.poll(() => readdirSync(join(app.folder, 'data', 'uploads'))).toEqual([]);
  expect(
    (await page.request.post(`${app.address}/api/models/adding`, { data: { upload: 'ab'.repeat(16), languages: [] } })).status(),
  ).toBe(404);
  await remove();
  await app.json(`/api/episodes/${id}`, 'DELETE');
  server.close();
});
