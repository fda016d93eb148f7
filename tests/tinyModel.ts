import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import proto from 'onnx-proto';

/** What the tiny model hears: tones in hertz, and the token that each is written as. */
const TONES: Readonly<Record<string, number>> = { '▁tick': 440, '▁tock': 880, ing: 1500, '▁chime': 2600 };
const TOKENS = ['<blk>', ...Object.keys(TONES)];
const MELS = 80;
/** Frames of features that become one of the answer. */
const STRIDE = 4;
/** The logarithm of power that lies between a tone and none. */
const THRESHOLD = -6;

const mel = (hertz: number): number => 1127 * Math.log(1 + hertz / 700);

/** A recording of tones: which, from when to when, in seconds. */
export function writeTones(
  path: string,
  seconds: number,
  ...tones: readonly (readonly [token: string, from: number, to: number])[]
): string {
  const sounds = tones.map(([token, from, to]) => `sin(2*PI*${TONES[token]}*t)*between(t,${from},${to})`);
  const made = `aevalsrc='0.3*(${sounds.join('+')})':s=16000:d=${seconds}`;
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', made, '-c:a', 'pcm_s16le', path]);
  return path;
}

/** The band of the features, from 20 to 7600 hertz, in which a tone lies. */
function bandOf(hertz: number): number {
  const width = (mel(7600) - mel(20)) / (MELS + 1);
  return Math.round((mel(hertz) - mel(20)) / width) - 1;
}

const { TensorProto, AttributeProto } = proto.onnx;
const floats = (name: string, dims: number[], floatData: number[]) => ({
  name,
  dims,
  dataType: TensorProto.DataType.FLOAT,
  floatData,
});
const wholes = (name: string, int64Data: number[], dims = [int64Data.length]) => ({
  name,
  dims,
  dataType: TensorProto.DataType.INT64,
  int64Data,
});
const value = (name: string, elemType: number, ...dims: (string | number)[]) => ({
  name,
  type: {
    tensorType: {
      elemType,
      shape: { dim: dims.map((dim) => (typeof dim === 'string' ? { dimParam: dim } : { dimValue: dim })) },
    },
  },
});

function writeNetwork(path: string, metadata: Readonly<Record<string, string | number>>, graph: object): void {
  const model = proto.onnx.ModelProto.fromObject({
    irVersion: 8,
    opsetImport: [{ domain: '', version: 13 }],
    producerName: 'a test',
    metadataProps: Object.entries(metadata).map(([key, value]) => ({ key, value: String(value) })),
    graph,
  });
  writeFileSync(path, proto.onnx.ModelProto.encode(model).finish());
}

/**
 * Writes a network that hears tones: one step from bands to tokens, trained by nobody. A tone over the threshold is its token, and all
 * else is blank.
 */
export function writeTinyModel(folder: string): void {
  const weights = Array.from({ length: MELS * TOKENS.length }, () => 0);
  for (const [k, hertz] of Object.values(TONES).entries()) weights[bandOf(hertz) * TOKENS.length + k + 1] = 1;
  const biases = TOKENS.map((_, k) => (k === 0 ? 0 : -THRESHOLD));
  const { FLOAT, INT64 } = TensorProto.DataType;
  writeNetwork(
    join(folder, 'model.onnx'),
    { model_type: 'zipformer2_ctc', comment: 'hears tones' },
    {
      name: 'tones',
      input: [value('x', FLOAT, 'N', 'T', MELS), value('x_lens', INT64, 'N')],
      output: [value('log_probs', FLOAT, 'N', 'S', TOKENS.length), value('log_probs_len', INT64, 'N')],
      initializer: [
        floats('weights', [MELS, TOKENS.length], weights),
        floats('biases', [TOKENS.length], biases),
        wholes('from', [0]),
        wholes('to', [1_000_000]),
        wholes('axis', [1]),
        wholes('stride', [STRIDE]),
        wholes('rest', [STRIDE - 1]),
      ],
      node: [
        { opType: 'Slice', input: ['x', 'from', 'to', 'axis', 'stride'], output: ['some'] },
        { opType: 'MatMul', input: ['some', 'weights'], output: ['scores'] },
        { opType: 'Add', input: ['scores', 'biases'], output: ['odds'] },
        {
          opType: 'LogSoftmax',
          input: ['odds'],
          output: ['log_probs'],
          attribute: [{ name: 'axis', type: AttributeProto.AttributeType.INT, i: -1 }],
        },
        { opType: 'Add', input: ['x_lens', 'rest'], output: ['more'] },
        { opType: 'Div', input: ['more', 'stride'], output: ['log_probs_len'] },
      ],
    },
  );
  writeFileSync(join(folder, 'tokens.txt'), TOKENS.map((token, k) => `${token} ${k}\n`).join(''));
}

/** Bands of sound as whole numbers: how many of them make one. */
const SHADES_PER_UNIT = 50;
const SHADES = 2000;
const DARKEST = -20;

/** How a network that writes what it gets is fed. */
export interface Revealed {
  readonly metadata: Readonly<Record<string, string | number>>;
  readonly bands: number;
  readonly bandByBand: boolean;
  /** what it takes besides, and tokens that it writes before those of the sound; lengths are whole numbers of 32 bits then */
  readonly besides?: readonly string[];
  readonly ahead?: readonly number[];
  /** it takes samples and no bands, and writes one of so many */
  readonly samples?: number;
}

/** Writes a network, trained by nobody, that writes as its tokens how much of a band it gets at each frame. */
export function writeRevealingModel(
  folder: string,
  { metadata, bands, bandByBand, besides = [], ahead = [], samples }: Revealed,
  band: number,
): void {
  const { FLOAT, INT32, INT64 } = TensorProto.DataType;
  const counts = besides.length > 0 ? INT32 : INT64;
  const classes = 2 * SHADES + 1;
  const one = (name: string, number: number) => wholes(name, [number], []);
  const attribute = (name: string, i: number) => [{ name, type: AttributeProto.AttributeType.INT, i }];
  mkdirSync(folder);
  writeNetwork(
    join(folder, 'model.onnx'),
    { vocab_size: classes - 1, subsampling_factor: 1, ...metadata },
    {
      name: 'shades',
      input: [
        ...(samples
          ? [value('sound', FLOAT, 'N', 'T')]
          : [bandByBand ? value('sound', FLOAT, 'N', bands, 'T') : value('sound', FLOAT, 'N', 'T', bands)]),
        ...(samples ? [] : [value('length', counts, 'N')]),
        ...besides.map((name) => value(name, counts, 'N')),
      ],
      output: [value('log_probs', FLOAT, 'N', 'S', classes), ...(samples ? [] : [value('log_probs_len', counts, 'N')])],
      initializer: [
        wholes('from', [band]),
        wholes('to', [1_000_000_000]),
        wholes('stride', [samples ?? 1]),
        one('band', band),
        floats('up', [], [-DARKEST]),
        floats('shades', [], [SHADES_PER_UNIT]),
        one('none', 0),
        one('most', SHADES - 1),
        one('two', 2),
        wholes('axis', [1]),
        wholes('depth', [classes]),
        floats('odds', [2], [-30, 0]),
        wholes('ahead', [...ahead], [1, ahead.length]),
      ],
      // Every second frame writes another token, since a token that goes on is written once.
      node: [
        samples
          ? { opType: 'Slice', input: ['sound', 'from', 'to', 'axis', 'stride'], output: ['power'] }
          : { opType: 'Gather', input: ['sound', 'band'], output: ['power'], attribute: attribute('axis', bandByBand ? 1 : 2) },
        { opType: 'Add', input: ['power', 'up'], output: ['raised'] },
        { opType: 'Mul', input: ['raised', 'shades'], output: ['scaled'] },
        { opType: 'Round', input: ['scaled'], output: ['rounded'] },
        { opType: 'Cast', input: ['rounded'], output: ['whole'], attribute: attribute('to', INT64) },
        { opType: 'Max', input: ['whole', 'none'], output: ['least'] },
        { opType: 'Min', input: ['least', 'most'], output: ['shade'] },
        { opType: 'Shape', input: ['shade'], output: ['form'] },
        {
          opType: 'ConstantOfShape',
          input: ['form'],
          output: ['ones'],
          attribute: [{ name: 'value', type: AttributeProto.AttributeType.TENSOR, t: wholes('', [1]) }],
        },
        { opType: 'CumSum', input: ['ones', 'axis'], output: ['count'] },
        { opType: 'Mod', input: ['count', 'two'], output: ['second'] },
        { opType: 'Mul', input: ['shade', 'two'], output: ['doubled'] },
        { opType: 'Add', input: ['doubled', 'second'], output: ['heard'] },
        { opType: 'Concat', input: ['ahead', 'heard'], output: ['token'], attribute: attribute('axis', 1) },
        { opType: 'OneHot', input: ['token', 'depth', 'odds'], output: ['log_probs'] },
        ...(samples ? [] : [{ opType: 'Identity', input: ['length'], output: ['log_probs_len'] }]),
      ],
    },
  );
  writeFileSync(
    join(folder, 'tokens.txt'),
    [...Array.from({ length: classes - 1 }, (_, k) => `<${k >> 1}>`), '<blk>'].map((token, k) => `${token} ${k}\n`).join(''),
  );
}

/** The shades that tokens of such a network stand for. */
export const shadesOf = (tokens: readonly string[]): number[] => tokens.map((token) => Number(/\d+/.exec(token)?.[0]));

/** Tones of the two voices that the speaker networks know. */
export const VOICES = ['▁tick', 'ing'] as const;
const FIELD = 991;
const FIELD_SHIFT = 270;
const GAIN = 100;

/**
 * Writes two networks that tell who speaks, trained by nobody. One has the power of each voice's tone, from a sine and a cosine over the samples, and
 * adds it up for each set of people: nobody, each of three, each two of them. The other describes a voice by its bands.
 * @returns their paths
 */
export function writeSpeakerModels(folder: string): { segmentation: string; embedding: string } {
  const { FLOAT } = TensorProto.DataType;
  const waves = VOICES.flatMap((voice) =>
    [Math.cos, Math.sin].flatMap((wave) =>
      Array.from({ length: FIELD }, (_, k) => (2 / FIELD) * wave((2 * Math.PI * (TONES[voice] as number) * k) / 16_000)),
    ),
  );
  const sets = [[], [0], [1], [2], [0, 1], [0, 2], [1, 2]];
  const powers = sets.flatMap((people) => VOICES.flatMap((_, k) => (people.includes(k) ? [GAIN, GAIN] : [0, 0])));
  const odds = sets.map((people) => (people.includes(2) ? -9 : -people.length));
  const ints = (name: string, ...values: number[]) => ({ name, type: AttributeProto.AttributeType.INTS, ints: values });
  const segmentation = join(folder, 'segmentation.onnx');
  writeNetwork(
    segmentation,
    // biome-ignore format: names that the engine gives
    { num_speakers: 3, powerset_max_classes: 2, num_classes: sets.length, sample_rate: 16_000, window_size: 160_000,
      receptive_field_size: FIELD, receptive_field_shift: FIELD_SHIFT },
    {
      name: 'turns',
      input: [value('x', FLOAT, 'N', 1, 'T')],
      output: [value('y', FLOAT, 'N', 'F', sets.length)],
      initializer: [
        floats('waves', [4, 1, FIELD], waves),
        floats('powers', [sets.length, 4, 1], powers),
        floats('odds', [sets.length], odds),
      ],
      node: [
        { opType: 'Conv', input: ['x', 'waves'], output: ['heard'], attribute: [ints('strides', FIELD_SHIFT)] },
        { opType: 'Mul', input: ['heard', 'heard'], output: ['power'] },
        { opType: 'Conv', input: ['power', 'powers', 'odds'], output: ['scores'] },
        { opType: 'Transpose', input: ['scores'], output: ['y'], attribute: [ints('perm', 0, 2, 1)] },
      ],
    },
  );
  const embedding = join(folder, 'embedding.onnx');
  writeNetwork(
    embedding,
    { framework: 'wespeaker', language: 'any', comment: 'a test', sample_rate: 16_000, output_dim: MELS, normalize_samples: 1 },
    {
      name: 'voice',
      input: [value('x', FLOAT, 'N', 'T', MELS)],
      output: [value('embedding', FLOAT, 'N', MELS)],
      initializer: [floats('over', [1], [-THRESHOLD])],
      node: [
        { opType: 'Add', input: ['x', 'over'], output: ['level'] },
        { opType: 'Relu', input: ['level'], output: ['loud'] },
        {
          opType: 'ReduceMean',
          input: ['loud'],
          output: ['embedding'],
          attribute: [ints('axes', 1), { name: 'keepdims', type: AttributeProto.AttributeType.INT, i: 0 }],
        },
      ],
    },
  );
  return { segmentation, embedding };
}
