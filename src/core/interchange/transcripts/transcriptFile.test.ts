import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { TranscriptError } from '../../transcript/word.ts';
import { readAnyFile } from './registry.ts';
import { readTranscriptFile } from './transcriptFile.ts';

const bytes = (...parts: (string | number[])[]): Uint8Array =>
  Uint8Array.from(parts.flatMap((part) => (typeof part === 'string' ? [...Buffer.from(part, 'latin1')] : part)));

const docx = (body: string, files: Record<string, Uint8Array> = {}): Uint8Array =>
  zipSync({
    '[Content_Types].xml': strToU8('<Types/>'),
    'word/document.xml': strToU8(
      `<?xml version="1.0" encoding="UTF-8"?>
<w:document xmlns:w="w" xmlns:mc="mc"><w:body>${body}<w:sectPr/></w:body></w:document>`,
    ),
    ...files,
  });
const odt = (text: string): Uint8Array =>
  zipSync({
    mimetype: strToU8('application/vnd.oasis.opendocument.text'),
    'content.xml': strToU8(
      `<office:document-content xmlns:office="o" xmlns:text="t" xmlns:table="b"><office:automatic-styles/><office:body><office:text>${text}</office:text></office:body></office:document-content>`,
    ),
  });
const run = (text: string) => `<w:r><w:rPr><w:b/></w:rPr><w:t xml:space="preserve">${text}</w:t></w:r>`;
const paragraph = (...runs: string[]) =>
  `<w:p><w:pPr><w:tabs><w:tab w:val="left"/></w:tabs></w:pPr>\n  ${runs.join('\n  ')}\n</w:p>`;
const cell = (...runs: string[]) => `<w:tc>${paragraph(...runs)}</w:tc>`;
const textOf = async (file: Uint8Array) => (await readTranscriptFile(file)).text;

describe('a document of a word processor', () => {
  it('is read a paragraph a line, its runs joined as they stand', async () => {
    const file = docx(
      paragraph(run('Isolde: the l'), run('amp&#8217;s '), run('lit')) + paragraph() + paragraph(run('Tobit: yes')),
    );
    expect(await textOf(file)).toBe('Isolde: the lamp’s lit\n\nTobit: yes');
  });

  it('has what is in force: not what was taken out, moved away, computed, or drawn a second time', async () => {
    const file = docx(
      paragraph(
        run('wind '),
        `<w:del>${run('not ')}</w:del>`,
        '<w:del><w:r><w:delText>never </w:delText></w:r></w:del>',
        `<w:moveFrom>${run('twice ')}</w:moveFrom><w:ins>${run('the ')}</w:ins>`,
        '<w:r><w:instrText>PAGE</w:instrText></w:r>',
        `<mc:AlternateContent><mc:Choice><w:p>${run('clock')}</w:p></mc:Choice><mc:Fallback><w:p>${run('clock')}</w:p></mc:Fallback></mc:AlternateContent>`,
      ),
    );
    expect(await textOf(file)).toBe('wind the clock');
  });

  it('has breaks as lines, tabs, and rows of tables with tabs between their cells', async () => {
    const file = docx(
      `${paragraph(run('one'), '<w:r><w:br/><w:t>two</w:t><w:tab/><w:t>three</w:t></w:r>')}<w:tbl><w:tr>${cell(run('0:00'))}${cell(run('Isolde'))}${cell(run('good evening'))}</w:tr><w:tr>${cell(run('0:04'))}${cell(run('Tobit'))}${cell(run('and fog'))}</w:tr></w:tbl>`,
    );
    expect(await textOf(file)).toBe('one\ntwo\tthree\n0:00\tIsolde\tgood evening\n0:04\tTobit\tand fog');
  });

  it('is read in the other open form as well', async () => {
    const file = odt(
      `<text:tracked-changes><text:p>gone</text:p></text:tracked-changes><text:h>The\n  fog</text:h><text:p><text:span>Isolde:</text:span><text:s text:c="2"/>good<text:tab/>evening<text:line-break/>all<text:note><text:p>a note</text:p></text:note></text:p><table:table><table:table-row><table:table-cell><text:p>0:04</text:p></table:table-cell><table:table-cell><text:p>and fog</text:p></table:table-cell></table:table-row></table:table>`,
    );
    expect(await textOf(file)).toBe('The fog\nIsolde:  good\tevening\nall\n0:04\tand fog');
  });

  it('gives words, who says them, and noted times as any text does', async () => {
    const { passages } = await readAnyFile(
      docx(
        paragraph(run('[0:02] Isolde: good evening')) +
          paragraph(run('[0:05] Tobit: it’s fog')) +
          paragraph(run('[0:09] Isolde: so it is')),
      ),
    );
    expect(passages.map(({ speaker, start, tokens }) => [speaker, start, tokens.map(({ text }) => text).join(' ')])).toEqual([
      ['Isolde', 2, 'good evening'],
      ['Tobit', 5, 'it’s fog'],
      ['Isolde', 9, 'so it is'],
    ]);
  });

  it.each([
    ['another archive', zipSync({ 'song.txt': strToU8('la') })],
    ['an archive that is cut off', docx(paragraph(run('one'))).subarray(0, 120)],
    [
      'names that the file defines',
      zipSync({ 'word/document.xml': strToU8('<!DOCTYPE x [<!ENTITY a "b">]><w:document><w:body><w:p/></w:body></w:document>') }),
    ],
    ['nests without end', docx(`${'<w:tbl>'.repeat(60)}${paragraph(run('one'))}${'</w:tbl>'.repeat(60)}`)],
    ['no text at all', zipSync({ 'word/document.xml': strToU8('<w:document/>') })],
    ['more text than anybody says', zipSync({ 'word/document.xml': new Uint8Array(100_000_001) }, { level: 1 })],
  ])('is refused with a reason: %s', async (_, file) => {
    await expect(readTranscriptFile(file)).rejects.toThrow(TranscriptError);
  });
});

describe('a file of text', () => {
  it.each([
    ['UTF-8', bytes([0xef, 0xbb, 0xbf], 'f\xc3\xbcr')],
    ['UTF-16, small end first', bytes([0xff, 0xfe], 'f\0\xfc\0r\0')],
    ['UTF-16, great end first', bytes([0xfe, 0xff], '\0f\0\xfc\0r')],
  ])('is read by its mark, and nothing is told: %s', async (_, file) => {
    expect(await readTranscriptFile(file)).toEqual({ text: 'für', notes: [] });
  });

  const german =
    'Das \xd6l ist fast zu Glas geworden. \xdcber der Werkbank h\xe4ngt die gro\xdfe Uhr, und sie geht f\xfcnf Minuten nach.';
  it('in the letters of one language is read so, and that is told', async () => {
    const { text, notes } = await readTranscriptFile(bytes(german));
    expect(text).toBe(german);
    expect(notes).toEqual([expect.stringContaining('8859-1')]);
  });

  it('in other letters is told apart from that', async () => {
    const russian = 'Сегодня мы чиним старые часы, и масло в них давно стало стеклом. Над верстаком висят большие часы.';
    const file = Uint8Array.from(
      [...russian].map((sign) => (sign >= 'А' && sign <= 'я' ? sign.charCodeAt(0) - 0x410 + 0xc0 : sign.charCodeAt(0))),
    );
    expect(await textOf(file)).toBe(russian);
  });

  it('has words with their accents in captions', async () => {
    const { passages, notes } = await readAnyFile(bytes(`1\r\n00:00:01,000 --> 00:00:09,000\r\n${german}\r\n`));
    expect(passages[0]?.tokens.map(({ text }) => text)).toContain('große');
    expect(notes).toHaveLength(1);
  });

  it.each([
    ['a recording', bytes('ID3\x04', [0, 0, 0, 0, 0xff, 0xfb])],
    ['signs that no text has', bytes('\xff\xfb\x90\x02\x03\x0e\x10')],
    ['UTF-16 that is cut off', bytes([0xff, 0xfe], 'f\0\xfc')],
  ])('that is none is refused: %s', async (_, file) => {
    await expect(readTranscriptFile(file)).rejects.toThrow(TranscriptError);
  });
});
