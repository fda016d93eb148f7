import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { timeTranscript } from '../../align/timeTranscript.ts';
import type { Caption } from '../../outputs/captions/captions.ts';
import { ttml as ttmlFile } from '../../outputs/captions/files.ts';
import { TranscriptError, type Word } from '../../transcript/word.ts';
import { readAny, TRANSCRIPT_FORMATS, transcriptFormatOf } from './registry.ts';

const read = async (text: string) => timeTranscript(await readAny(text), { duration: 1e6, silences: [] });
const format = (id: string) => transcriptFormatOf(id) as (typeof TRANSCRIPT_FORMATS)[number];

/** Words as people say them, in order, in milliseconds; pauses between some of them. */
const spoken = fc
  .array(
    fc.record({
      text: fc.stringMatching(/^[A-Za-zäéß’']{1,10}[,.?!]?$/),
      gap: fc.integer({ min: 0, max: 2500 }),
      length: fc.integer({ min: 40, max: 900 }),
    }),
    { minLength: 1, maxLength: 60 },
  )
  .map((list) => {
    let at = 200;
    return list.map(({ text, gap, length }): Word => {
      const start = at + gap;
      at = start + length;
      return { text, start: start / 1000, end: at / 1000, confidence: 1, speaker: 'Isolde', timing: 'measured' };
    });
  });

describe('every transcript format', () => {
  it.each(TRANSCRIPT_FORMATS.map((one) => [one.id]))('%s gives back the words that were written', async (id) => {
    await fc.assert(
      fc.asyncProperty(spoken, async (words) => {
        const back = (await format(id).read(format(id).write({ language: 'en', words }))).passages;
        expect(back.flatMap(({ tokens }) => tokens.map(({ text }) => text))).toEqual(words.map(({ text }) => text));
      }),
      { numRuns: 60 },
    );
  });

  it.each([
    ['json', 0.0005],
    ['ctm', 0.001],
    ['vtt', 0.001],
  ])('%s gives back the start of each word to its resolution', async (id, within) => {
    await fc.assert(
      fc.asyncProperty(spoken, async (words) => {
        const back = await read(format(id).write({ language: 'en', words }));
        for (const [k, word] of words.entries())
          expect(Math.abs((back.words[k] as Word).start - word.start)).toBeLessThanOrEqual(within);
      }),
      { numRuns: 40 },
    );
  });

  it('srt gives back lines, in which no word leaves its line', async () => {
    await fc.assert(
      fc.asyncProperty(spoken, async (words) => {
        const { passages } = await format('srt').read(format('srt').write({ language: 'en', words }));
        const back = await read(format('srt').write({ language: 'en', words }));
        expect(passages[0]?.start).toBeCloseTo(words[0]?.start ?? 0, 2);
        expect(passages.at(-1)?.end).toBeCloseTo(words.at(-1)?.end ?? 0, 2);
        // Lines of a word each are times of words.
        const single = passages.filter(({ tokens }) => tokens.length === 1).length;
        if (single < 10) expect(back.words.every(({ timing }) => timing === 'estimated')).toBe(true);
      }),
      { numRuns: 40 },
    );
  });

  it('keeps who speaks', async () => {
    const words = ['Fog', 'again.', 'Yes.'].map(
      (text, k): Word => ({
        text,
        start: k,
        end: k + 0.5,
        confidence: 1,
        speaker: k < 2 ? 'Isolde' : 'Tobit',
        timing: 'measured',
      }),
    );
    for (const id of ['json', 'vtt', 'srt', 'ctm']) {
      const back = await read(format(id).write({ language: 'en', words }));
      expect(
        back.words.map(({ speaker }) => speaker),
        id,
      ).toEqual(['Isolde', 'Isolde', 'Tobit']);
    }
  });
});

describe('captions that roll', () => {
  const lines = [
    'so today we open',
    'the case and look',
    'at the spring',
    'at the spring',
    'is the oil dry',
    'it is',
    'it is worn',
  ];
  const at = (seconds: number) => `00:00:${seconds.toFixed(3).padStart(6, '0')}`;
  const said = async (file: string) => {
    const { passages, notes } = await readAny(file);
    return { notes, lines: passages.map(({ tokens }) => tokens.map(({ text }) => text).join(' ')), passages };
  };

  it('show a line once more above the next one, which alone is said then', async () => {
    const srt = lines.map(
      (line, k) => `${k + 1}\n${at(2 * k)} --> ${at(2 * k + 4)}\n${k > 0 ? `${lines[k - 1]}\n` : ''}${line}\n`,
    );
    const read = await said(srt.join('\n'));
    expect(read.lines).toEqual(lines);
    expect(read.passages.map(({ start, end }) => [start, end])).toEqual(
      lines.map((_, k) => [2 * k, k + 1 < lines.length ? 2 * k + 2 : 2 * k + 4]),
    );
    expect(read.notes.join()).toMatch(/read once/);
  });

  it('show it by itself for a moment before, and have times inside', async () => {
    const cues = lines.flatMap((line, k) => {
      const words = line.split(' ').map((word, n) => (n === 0 ? word : `<${at(2 * k + 0.3 * n)}><c> ${word}</c>`));
      return [
        `${at(2 * k)} --> ${at(2 * k + 1.99)} align:start\n${k > 0 ? lines[k - 1] : ' '}\n${words.join('')}\n`,
        `${at(2 * k + 1.99)} --> ${at(2 * k + 2)} align:start\n${line}\n \n`,
      ];
    });
    const read = await said(`WEBVTT\nKind: captions\nLanguage: en\n\n${cues.join('\n')}`);
    expect(read.lines).toEqual(lines);
    expect(read.passages[1]?.tokens.map(({ start }) => start)).toEqual([2, 2.3, 2.6, 2.9]);
  });

  it('grow word by word', async () => {
    const cues = lines.flatMap((line, k) => {
      const words = line.split(' ');
      return words.map((_, n) => {
        const from = 4 * k + 0.5 * n;
        return `${at(from)} --> ${at(from + 0.5)}\n${words.slice(0, n + 1).join(' ')}\n`;
      });
    });
    const read = await said(`WEBVTT\n\n${cues.join('\n')}`);
    expect(read.lines.join(' ')).toBe(lines.join(' '));
    expect(read.passages[1]?.tokens).toEqual([{ text: 'today', start: 0.5, end: 1 }]);
  });

  it('show one word after the other, whose times are then those of the words', async () => {
    const words = 'so today we open the case and look at once more'.split(' ');
    const srt = words.map((word, k) => `${k + 1}\n${at(k)} --> ${at(k + 0.4)}\n${k === 8 ? 'at all' : word}\n`);
    const { passages } = await said(srt.join('\n'));
    expect(passages[3]?.tokens).toEqual([{ text: 'open', start: 3, end: 3.4 }]);
    expect(passages[8]?.tokens).toEqual([{ text: 'at' }, { text: 'all' }]);
  });

  it('are not those of somebody who says lines again', async () => {
    const tries = ['so today', 'so today we', 'so today we open', 'the case', 'the case and look', 'at the spring', 'and oil it'];
    const srt = tries.map((line, k) => `${k + 1}\n${at(2 * k)} --> ${at(2 * k + 2)}\n${line}\n`);
    expect((await said(srt.join('\n'))).lines).toEqual(tries);
  });

  it('name who speaks where somebody else begins', async () => {
    const cues = ['[Isolde] so today', 'we open', '[Tobit] the case', 'and look'].map(
      (line, k) => `${k + 1}\n${at(2 * k)} --> ${at(2 * k + 2)}\n${line}\n`,
    );
    expect((await said(cues.join('\n'))).passages.map(({ speaker }) => speaker)).toEqual(['Isolde', 'Isolde', 'Tobit', 'Tobit']);
  });
});

describe('timed text as XML', () => {
  const file = (body: string, rates = '') =>
    `<?xml version="1.0"?><tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttm="m" xmlns:ttp="p" xml:lang="en" ${rates}><head><metadata><ttm:agent xml:id="a"><ttm:name>Isolde Fry</ttm:name></ttm:agent></metadata></head><body><div>${body}</div></body></tt>`;

  it('that was written for captions is read back, frame by frame', async () => {
    const line = (text: string) => text.split(' ').map((one) => ({ word: { text: one } }));
    const captions = [
      { from: 30, to: 75, lines: [line('take the'), line('key & turn')], speaker: 'Isolde' },
      { from: 90, to: 120, lines: [line('it')], speaker: 'Tobit' },
    ] as unknown as readonly Caption[];
    const written = ttmlFile({ captions, rate: { num: 30_000, den: 1001 }, language: 'en', title: 'Fog' });
    const { language, passages } = await readAny(written);
    expect(language).toBe('en');
    expect(passages.map(({ speaker, tokens }) => [speaker, tokens.map(({ text }) => text).join(' ')])).toEqual([
      ['Isolde', 'take the key & turn'],
      ['Tobit', 'it'],
    ]);
    expect(passages[0]?.start).toBeCloseTo(1.001, 4);
    expect(passages[1]?.end).toBeCloseTo(4.004, 4);
  });

  it.each([
    ['begin="00:00:01.5" end="00:00:03"', '', 1.5, 3],
    ['begin="1.5s" dur="1500ms"', '', 1.5, 3],
    ['begin="00:00:01:12" end="75f"', 'ttp:frameRate="25"', 1.48, 3],
    ['begin="15t" end="30t"', 'ttp:tickRate="10"', 1.5, 3],
  ])('has times of many kinds: %s', async (times, rates, start, end) => {
    const { passages } = await readAny(file(`<p ${times} ttm:agent="a">take<br/>the <span>key</span> &amp; go</p>`, rates));
    expect(passages).toMatchObject([
      { speaker: 'Isolde Fry', tokens: ['take', 'the', 'key', '&', 'go'].map((text) => ({ text })) },
    ]);
    expect(passages[0]?.start).toBeCloseTo(start, 6);
    expect(passages[0]?.end).toBeCloseTo(end, 6);
  });

  it('has times that count from what they stand in', async () => {
    const { passages } = await readAny(file('<div begin="10s"><p begin="1s" end="2s">take it</p></div>'));
    expect(passages[0]).toMatchObject({ start: 11, end: 12 });
  });

  it.each([
    ['a file that is cut off', '<tt xmlns="http://www.w3.org/ns/ttml"><body><p begin="1s" end="2s">take'],
    ['entities', '<?xml version="1.0"?><!DOCTYPE tt [<!ENTITY a "b">]><tt><body><p begin="1s" end="2s">&a;</p></body></tt>'],
    ['captions without times', file('<p>take it</p>')],
    ['nests of elements', file(`${'<div>'.repeat(60)}<p begin="1s" end="2s">take</p>${'</div>'.repeat(60)}`)],
  ])('is refused with a reason: %s', async (_, text) => {
    await expect(readAny(text)).rejects.toThrow(TranscriptError);
  });
});

describe('text in which times stand', () => {
  const passages = async (text: string) =>
    (await readAny(text)).passages.map(({ speaker, start, end, tokens }) => [
      speaker,
      start,
      end,
      tokens.map(({ text: word }) => word).join(' '),
    ]);

  it.each([
    ['before each line', '[0:01] take the key\n[0:04] turn it'],
    ['without brackets', '00:01 take the key\n\n00:04 - turn it\n'],
    ['with what stands above them', 'Notes of the bench\n\n0:01\ntake the key\n\n0:04\nturn\nit\n'],
    ['in angles', '<00:00:01.000> take the key\r\n<00:00:04.000> turn it'],
  ])('has lines that end where the next begins: %s', async (_, text) => {
    expect(await passages(text)).toEqual([
      ['', 1, 4, 'take the key'],
      ['', 4, undefined, 'turn it'],
    ]);
  });

  it.each([
    ['with an arrow', '[00:00:01.000 --> 00:00:02.500]  take the key\n[00:00:04.000 --> 00:00:05.000]  turn it'],
    ['above each line', '0:00:01.000,0:00:02.500\ntake the key\n\n0:00:04.000,0:00:05.000\nturn it'],
    ['in columns of thousandths', 'start\tend\ttext\n1000\t2500\ttake the key\n4000\t5000\tturn it'],
    ['in columns of seconds', '1.000000\t2.500000\ttake the key\n4.000000\t5.000000\tturn it'],
    ['in columns of times', '0:01\t0:02.5\ttake the key\n0:04\t0:05\tturn it'],
    ['as captions without numbers', '00:00:01,000 --> 00:00:02,500\ntake the key\n\n00:00:04,000 --> 00:00:05,000\nturn it'],
    ['as captions without hours', '1\n00:01,000 --> 00:02,500\ntake the key\n\n2\n00:04,000 --> 00:05,000\nturn it'],
  ])('has lines that end where it says so: %s', async (_, text) => {
    expect(await passages(text)).toEqual([
      ['', 1, 2.5, 'take the key'],
      ['', 4, 5, 'turn it'],
    ]);
  });

  it.each([
    ['behind names', 'Isolde Fry (0:01): take the key\nTobit (0:04): turn it'],
    ['behind names, alone', 'Isolde Fry  0:01\ntake the key\n\nTobit  0:04\nturn it'],
    ['before names', '[00:01] Isolde Fry: take the key\n[00:04] Tobit: turn it'],
    ['in a table', 'Time\tWho\tWhat\n0:01\tIsolde Fry\ttake the key\n[0:04]\tTobit:\tturn it'],
    ['in a table behind names', 'Isolde Fry\t0:01\ttake the key\nTobit\t0:04\tturn it'],
    ['before names, parted by lines', '00:01 | Isolde Fry:\ntake the key\n00:04 | Tobit:\nturn it'],
  ])('has speakers: %s', async (_, text) => {
    expect(await passages(text)).toEqual([
      ['Isolde Fry', 1, 4, 'take the key'],
      ['Tobit', 4, undefined, 'turn it'],
    ]);
  });

  it('says what stands above the first time, and takes any number of lines below one', async () => {
    const { notes, passages: read } = await readAny(`Bench notes\n\nof Isolde\n0:01 a\n${'word\n'.repeat(100_000)}0:09 b\n`);
    expect(notes).toEqual(['What stands above the first time was left out (lines: 2).']);
    expect(read.map(({ tokens }) => tokens.length)).toEqual([100_001, 1]);
    expect((await readAny('start\tend\ttext\n1000\t2500\ttake\n4000\t5000\tturn\n')).notes).toEqual([]);
  });

  it('shares the time between lines that are noted at one moment', async () => {
    expect(await passages('0:01 take the key\n0:02 turn it\n0:02 oil it now please\n0:05 done')).toEqual([
      ['', 1, 2, 'take the key'],
      ['', 2, 3, 'turn it'],
      ['', 3, 5, 'oil it now please'],
      ['', 5, undefined, 'done'],
    ]);
  });

  it('has none where a time is a word, where times go back, or where they are too far apart to help', async () => {
    for (const text of ['We open at 10:30 and\nclose at 16:00 today', '9:00 we close\n8:00 we open\n7:00 we rise'])
      expect((await passages(text)).every(([, start]) => start === undefined)).toBe(true);
    expect(await passages('[0:00] take the key\n[1:00] turn it\n[2:00] oil it')).toEqual([
      ['', undefined, undefined, 'take the key'],
      ['', undefined, undefined, 'turn it'],
      ['', undefined, undefined, 'oil it'],
    ]);
    expect(await passages('[0:00] Isolde: take the key\nTobit: which\n[0:09] Isolde: that\nTobit: ah')).toEqual([
      ['Isolde', undefined, undefined, 'take the key'],
      ['Tobit', undefined, undefined, 'which'],
      ['Isolde', undefined, undefined, 'that'],
      ['Tobit', undefined, undefined, 'ah'],
    ]);
  });
});

describe('what a file may look like', () => {
  it('is told by its content: byte-order marks, Windows line ends and missing headers do not matter', async () => {
    const vtt = '\uFEFFWEBVTT\r\n\r\n00:01.000 --> 00:03.000\r\nwind it up\r\n';
    const srt = '\uFEFF1\r\n00:00:01,000 --> 00:00:03,000\r\nwind it up\r\n';
    const ctm = ';; made by hand\r\nclock 1 1.0 0.5 wind 0.9\r\nclock 1 1.5 0.5 it\r\nclock 1 2.0 0.5 up\r\n';
    for (const file of [vtt, srt, ctm]) expect((await read(file)).words.map(({ text }) => text)).toEqual(['wind', 'it', 'up']);
  });

  it('marks inside cues are not words, and nothing of them stays', async () => {
    const { words } = await read(
      'WEBVTT\n\n00:01.000 --> 00:03.000\n<v Isolde>take <i>the</i> <script>alert(1)</script> key &amp; turn <00:02.000>it\n',
    );
    expect(words.map(({ text }) => text)).toEqual(['take', 'the', 'alert(1)', 'key', '&', 'turn', 'it']);
    expect(words.every(({ text }) => !/[<>]/.test(text))).toBe(true);
    expect(words[0]?.speaker).toBe('Isolde');
    expect(words.at(-1)).toMatchObject({ start: 2, end: 3 });
  });

  it('a note of what else is heard is one token, and what is said in brackets is words', async () => {
    const { words } = await read(
      'WEBVTT\n\n00:01.000 --> 00:03.000\n[Upbeat music] take the key (the small one). (upbeat music) It fits.\n',
    );
    expect(words.every(({ speaker }) => speaker === '')).toBe(true);
    expect(words.map(({ text }) => text).join('|')).toBe('[Upbeat music]|take|the|key|(the|small|one).|(upbeat music)|It|fits.');
  });

  const segment = (start: number, text: string, words?: object[]) => ({ start, end: start + 2, text, avg_logprob: -0.1, words });
  const heard = (word: string, start?: number, end?: number) => ({ word, start, end, probability: 0.8 });
  it.each([
    [
      'inside segments',
      { language: 'german', segments: [segment(1, ' Die Uhr', [heard(' Die', 1, 1.4), heard(' Uhr', 1.5, 2)])] },
    ],
    ['beside them', { language: 'de', segments: [segment(1, 'Die Uhr')], words: [heard('Die', 1, 1.4), heard('Uhr', 1.5, 2)] }],
    ['without a time of its own', { language: 'de', segments: [segment(0, 'Die Uhr', [heard('Die'), heard('Uhr', 1.5, 2)])] }],
  ])('segments of a recogniser are read with words %s', async (_, file) => {
    const { language, words } = await read(JSON.stringify({ text: 'Die Uhr', ...file }));
    expect(language).toBe('de');
    expect(words.map(({ text }) => text)).toEqual(['Die', 'Uhr']);
    expect(words[1]).toMatchObject({ start: 1.5, end: 2, confidence: 0.8, timing: 'measured' });
    expect(words[0]?.end).toBeLessThanOrEqual(1.5);
  });

  it('segments without words are lines, with their speakers, and others are refused with a reason', async () => {
    const lines = [segment(1, 'Take the key.'), segment(4, '(laughs) Turn it.')].map((line, k) => ({
      ...line,
      speaker: `S${k}`,
    }));
    const { passages } = await readAny(JSON.stringify({ segments: lines }));
    expect(await readAny(JSON.stringify(lines))).toMatchObject({ passages });
    expect(passages.map(({ speaker, start, tokens }) => [speaker, start, tokens.length])).toEqual([
      ['S0', 1, 3],
      ['S1', 4, 3],
    ]);
    await expect(readAny('{"segments":[{"text":"no times"}]}')).rejects.toThrow(/a start, an end and a text/);
    await expect(readAny('{"segments":[]}')).rejects.toThrow(/holds no words/);
    await expect(readAny('{"segments":[')).rejects.toThrow(TranscriptError);
  });

  it('words with times that make a note between them are one from where it begins to where it ends', async () => {
    const timed = ['so', '(upbeat', 'music)', '[BLANK_AUDIO]', '(then', 'we', 'wait)', '(open'].map((text, k) => ({
      text,
      start: k,
      end: k + 0.9,
    }));
    const { words } = await read(JSON.stringify({ words: timed }));
    expect(words.map(({ text }) => text)).toEqual(['so', '(upbeat music)', '[BLANK_AUDIO]', '(then', 'we', 'wait)', '(open']);
    expect(words[1]).toMatchObject({ start: 1, end: 2.9 });
    const lines = timed.map(({ text, start }) => `tape 1 ${start} 0.9 ${text}`).join('\n');
    expect((await read(lines)).words.map(({ text }) => text)).toEqual(words.map(({ text }) => text));
  });

  it.each([
    ['[Door opens] take the key', '', '[Door opens]|take|the|key'],
    ['[Isolde Fry] take the key', 'Isolde Fry', 'take|the|key'],
    ['[speaker 2] take the key', 'speaker 2', 'take|the|key'],
    ['[ISOLDE]: take the key', 'ISOLDE', 'take|the|key'],
    ['take the—the key--no', '', 'take|the—|the|key--|no'],
    ['{\\an8}<i>take</i>\\Nthe key', '', 'take|the|key'],
    ['- take the key\n- [laughs] so it — goes', '', 'take|the|key|[laughs]|so|it|—|goes'],
    ['>> ISOLDE: take the key', 'ISOLDE', 'take|the|key'],
    ['a\u0308h die Uhr', '', '\u00e4h|die|Uhr'],
  ])('a cue “%s” is said by “%s”', async (cue, speaker, said) => {
    const { words } = await read(`WEBVTT\n\n00:01.000 --> 00:03.000\n${cue}\n`);
    expect([...new Set(words.map((word) => word.speaker))]).toEqual([speaker]);
    expect(words.map(({ text }) => text).join('|')).toBe(said);
  });

  it('a cue that cannot be read is left out and named by its line', async () => {
    const { passages, notes } = await readAny(
      'WEBVTT\n\n00:01.000 --> 00:02.000\nfine\n\n00:05.000 --> never\nlost\n\n00:08.000 --> 00:09.000\nfine too\n',
    );
    expect(passages).toHaveLength(2);
    expect(notes.join()).toMatch(/Line 6/);
  });

  it('plain text knows speakers by a name that comes again, and a colon by itself from one', async () => {
    const { passages } = await readAny('Isolde: the lamp\n\nTobit: which one\n\nIsolde: the big one\n');
    expect(passages.map(({ speaker }) => speaker)).toEqual(['Isolde', 'Tobit', 'Isolde']);
    expect((await readAny('Remember: oil it last.')).passages[0]).toMatchObject({ speaker: '' });
  });

  it.each([
    ['nothing', ''],
    ['cues without any words', 'WEBVTT\n\n00:01.000 --> 00:02.000\n\n'],
    ['a header alone', 'WEBVTT\n'],
    ['a word that starts before time', 'clock 1 0.0 0.5 a\nclock 1 -9 0.5 x\n'],
    ['a word that lasts forever', 'clock 1 1.0 0.5 a\nclock 1 1.0 1e99 x\n'],
  ])('is refused with a reason: %s', async (_, file) => {
    await expect(readAny(file)).rejects.toThrow(TranscriptError);
  });

  it('names the line of a CTM file that is wrong', async () => {
    await expect(readAny('clock 1 1.0 0.5 a\nclock 1 two 0.5 b\n')).rejects.toThrow(/Line 2/);
  });

  it('a thousand malformed files give words or a reason, and never anything else', async () => {
    const time = fc.constantFrom('00:01.000', '00:00:02,500', '-1', '99:99:99.999', 'NaN', '1e9', '00:00', '', '00:01.000');
    const body = fc.constantFrom(
      'words here',
      '<b>',
      '<v>',
      '</c><00:00:00.500>x',
      '&#0;&lt;',
      '\u0000\uFFFD',
      '<script>x</script>',
      '🕰️',
      '',
    );
    const cue = fc.tuple(time, time, body).map(([from, to, text]) => `${from} --> ${to}\n${text}\n`);
    const file = fc.tuple(
      fc.constantFrom('WEBVTT\n\n', '\uFEFFWEBVTT\r\n\r\n', '1\n', '', 'clock 1 1.0 0.5 a\n', '{"words":['),
      fc.array(fc.oneof(cue, fc.string(), fc.constantFrom('clock 1 NaN 0.5 b\n', '\n', '{}', '\r\n')), { maxLength: 12 }),
      fc.constantFrom('\n', '\r\n', '\r'),
    );
    await fc.assert(
      fc.asyncProperty(file, async ([head, cues, end]) => {
        try {
          const { words } = await read(head + cues.join('\n').replaceAll('\n', end));
          for (const { text, start, end: until } of words) {
            expect(text.trim()).not.toBe('');
            expect(start >= 0 && until >= start && until <= 2e6).toBe(true);
          }
          expect(words.map(({ start }) => start)).toEqual(words.map(({ start }) => start).sort((a, b) => a - b));
        } catch (error) {
          expect(error).toBeInstanceOf(TranscriptError);
        }
      }),
      { numRuns: 1000 },
    );
  });
});
