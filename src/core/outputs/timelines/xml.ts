import type { HurrySound } from '../../detect/settings.ts';
import type { CentrePoint } from '../../programme/views.ts';
import { type FrameRate, type Frames, nominalRate, spokenRate } from '../../time/rate.ts';
import { formatTimecode } from '../../time/timecode.ts';
import { type Carrier, carrierOf, channelIn, inCarrier, pictureTracks } from '../plan/carriers.ts';
import { crossfadeFrames, fadeBefore, hasSound, isFadeTooShort, isRecorded } from '../plan/fades.ts';
import { type FramePlan, pictureOn, sourceOf, speedOf, type TimelineEvent, wouldCover } from '../plan/framePlan.ts';
import { offsetOf } from '../plan/looks.ts';
import { colourOf, type Marker } from '../plan/marker.ts';
import { channelsOf } from '../plan/media.ts';
import { InterchangeError, lossesOf, type TimelineFormat, type WrittenFile } from './format.ts';
import { TIMELINE_NAMES } from './names.ts';
import { readXml } from './xmlReader.ts';
import { element, escapedXml, leaf, leaves, XML_ROOT } from './xmlText.ts';

/** Faster counts are of samples, which this format does not know. */
const MOST_FRAMES = 1000;

/** What a clip says of the sound of what is hurried; the reader looks for the same words. */
export const SOUND_REMARKS: Readonly<Record<HurrySound | 'hole', string>> = {
  mute: 'hurried, its sound left out',
  along: 'hurried, its sound raised',
  pitch: 'hurried, its sound at its own pitch',
  hole: 'emptied',
};

/**
 * XML interchange, version 5: a sequence with tracks of clip items. A file is defined where it is first used and referred
 * to after that. Each channel of each audio stream is a track of its own; picture and sounds of one event are linked, the two channels of
 * a stereo pair as one group. Each picture of a recording has a track of its own, the recordings' own lowest; of those over
 * it only what is seen is switched on. What runs faster has a time remap whose two points give its frames exactly. An emptied stretch is a clip
 * switched off in its place; what went, where it is handed over, lies switched off on tracks of its own.
 */
export const xml: TimelineFormat = {
  id: 'xml',
  label: TIMELINE_NAMES.xml,
  help: 'Imported by most editing programs: all tracks and channels, links, speeds, marks.',
  mime: 'application/xml; charset=utf-8',

  write(plan: FramePlan): WrittenFile[] {
    const why = refusal(plan);
    if (why !== undefined) throw new InterchangeError(why);
    return [{ part: '', text: new SequenceWriter(plan).text() }];
  },

  refused: (plan) => refusal(plan),
  parts: () => [''],

  cannotCarry: (plan) => [
    ...lossesOf(plan, { markers: true, disabled: true, muting: true, looks: true, cleaned: true }),
    ...(isFadeTooShort(plan) ? ['cross-fades shorter than two frames'] : []),
  ],

  read: readXml,
};

const refusal = ({ rate }: FramePlan): string | undefined =>
  nominalRate(rate) > MOST_FRAMES ? `Timeline XML counts frames, not samples: not ${spokenRate(rate)} a second.` : undefined;

/** A track of sound of the sequence: one channel of a stream. */
interface Channel {
  readonly stream: number;
  /** within the stream, from nought */
  readonly channel: number;
  /** from 1; nought where it is no pair */
  readonly pair: number;
  readonly muted: boolean;
  readonly cleaned?: true;
  readonly id: string;
  /** what its clips say of where they come from, by their files */
  readonly tracks: string[];
}

/** A track of pictures of the sequence, see `pictureOn`. */
interface Picture {
  readonly picture: number;
  readonly id: string;
}
const OWN: Picture = { picture: 0, id: 'p' };
/** A track among all, and what a link to it says besides. */
interface Linked {
  readonly track: Channel | Picture;
  readonly id: string;
  readonly group: string;
}
const isPicture = (track: Channel | Picture): track is Picture => 'picture' in track;

class SequenceWriter {
  private readonly rateText: string;
  private readonly defined = new Set<string>();
  private readonly names = new Map<string, string>();
  private readonly channels: readonly Channel[];
  private readonly pictures: readonly Picture[];
  /** all of these in their order */
  private readonly tracks: readonly Linked[];
  private readonly has: Uint8Array;

  constructor(private readonly plan: FramePlan) {
    this.rateText = rateText(plan.rate);
    this.pictures = Array.from({ length: pictureTracks(plan.sources) }, (_, k) =>
      k === 0 ? OWN : { picture: k, id: `v${k + 1}-` },
    );
    this.channels = plan.tracks.flatMap(({ stream, channels, muted, cleaned }, k) =>
      Array.from({ length: channels }, (_, channel) => ({
        stream,
        channel,
        pair: channels === 2 ? k + 1 : 0,
        muted,
        ...(cleaned && { cleaned }),
        id: `${cleaned ? 'k' : 's'}${stream + 1}${channels > 1 ? `c${channel + 1}` : ''}-`,
        tracks: [],
      })),
    );
    const pictures = plan.media.hasVideo ? this.pictures : [];
    this.tracks = [
      ...pictures.map((track) => ({ track, id: track.id, group: '' })),
      ...this.channels.map((track) => ({
        track,
        id: track.id,
        group: track.pair > 0 ? `<groupindex>${track.pair}</groupindex>` : '',
      })),
    ];
    this.has = this.linked();
  }

  text(): string {
    const { title, length, recordStart, markers } = this.plan;
    const sequence = element(
      'sequence',
      [
        leaf('name', title),
        leaf('duration', length),
        this.rateText,
        this.timecode(recordStart),
        element('media', [this.video(), this.audio()]),
        ...markers.map(markerText),
      ],
      'sequence-1',
    );
    return `<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE ${XML_ROOT}>\n${this.remarks()}<${XML_ROOT} version="5">\n${sequence}</${XML_ROOT}>\n`;
  }

  /** Footage of another rate is said to be conformed. Two hyphens would end a remark. */
  private remarks(): string {
    const { sources, rate } = this.plan;
    return sources
      .flatMap(({ carriers }) => carriers)
      .filter(({ conformed, media }) => conformed && media.frameRate)
      .map(({ media }) => {
        const own = media.conformedFrom ?? media.frameRate;
        return `<!-- ${escapedXml(media.name).replaceAll('--', '- -')} is conformed to ${spokenRate(rate)} from ${own} frames a second -->\n`;
      })
      .join('');
  }

  private video(): string {
    const { media, removed } = this.plan;
    if (!media.hasVideo) return '';
    const { width, height } = media;
    const sample = element('samplecharacteristics', [
      this.rateText,
      ...(width && height ? leaves({ width, height }) : []),
      ...leaves({ anamorphic: 'FALSE', pixelaspectratio: 'square', fielddominance: 'none' }),
    ]);
    return element('video', [
      element('format', [sample]),
      ...this.pictures.map((track) => element('track', inARow(this.shown(track), leaves({ enabled: 'TRUE', locked: 'FALSE' })))),
      ...(removed === 'disabled'
        ? [element('track', inARow(this.removedClips(OWN), leaves({ enabled: 'TRUE', locked: 'FALSE' })))]
        : []),
    ]);
  }

  private *shown(track: Picture): Generator<string> {
    const { events } = this.plan;
    // Where one picture goes over into the next is said on the track on which it is seen.
    const dissolveOf = (event: TimelineEvent | undefined) =>
      event && (event.angle ?? 0) === track.picture ? event.dissolve : undefined;
    for (const [k, event] of events.entries()) {
      const isHole = event.hole && track.picture === 0;
      if (event.off || (!isHole && !pictureOn(this.plan, event, track.picture))) continue;
      const before = dissolveOf(event);
      if (before) yield this.transition(event.recordIn, before, DISSOLVE);
      yield this.clip(track, event, k, before, dissolveOf(events[k + 1]));
    }
  }

  private audio(): string {
    const { media, removed } = this.plan;
    const sample = element('samplecharacteristics', leaves({ depth: 16, samplerate: media.sampleRate ?? 48_000 }));
    const tail = ({ channel, pair, muted }: Channel) =>
      leaves({ enabled: muted ? 'FALSE' : 'TRUE', locked: 'FALSE', outputchannelindex: pair > 0 ? channel + 1 : 1 });
    return element('audio', [
      leaf('numOutputChannels', 2),
      element('format', [sample]),
      ...this.channels.map((one) => element('track', inARow(this.soundItems(one), tail(one)))),
      ...(removed === 'disabled'
        ? this.channels
            .filter(({ cleaned }) => !cleaned)
            .map((one) => element('track', inARow(this.removedClips(one), tail(one))))
        : []),
    ]);
  }

  private *soundItems(channel: Channel): Generator<string> {
    const { plan } = this;
    const hasFades = crossfadeFrames(plan) >= 2;
    const fades = hasFades ? plan.events.map((_, k) => fadeBefore(plan, k, channel.stream)) : [];
    for (const [k, event] of plan.events.entries()) {
      const isKept = hasSound(plan, event, channel.stream);
      // What is neither seen nor heard has to stand somewhere: the first track of sound keeps it, switched off.
      const stands = !plan.media.hasVideo && channel === this.channels[0] && !event.off;
      if (!isKept && !(stands && (event.hole || event.sound === 'mute'))) continue;
      const fade = fades[k];
      if (fade) yield this.transition(event.recordIn, fade, CROSS_FADE);
      yield this.clip(channel, event, k, fade, fades[k + 1]);
    }
  }

  private *removedClips(track: Channel | Picture): Generator<string> {
    for (const [k, event] of this.plan.events.entries()) {
      const has = isPicture(track) ? !event.blind : isRecorded(this.plan, event, track.stream);
      if (event.off && has) yield this.clip(track, event, k);
    }
  }

  /** @param before frames on either side of its start in which it fades in, and @param after of its end, if it fades */
  private clip(track: Channel | Picture, event: TimelineEvent, k: number, before?: number, after?: number): string {
    const name = track.id;
    const speed = speedOf(event);
    const closer = isPicture(track) ? event.closer : undefined;
    const isOver = isPicture(track) && wouldCover(event, track.picture);
    const isAt = before === undefined && after === undefined;
    const isPlain = speed === 1 && isAt && !event.hole && !event.sound && !event.off && !closer && !isOver;
    const links = this.links(k, name);
    const source = sourceOf(this.plan, event);
    const own = source.carriers[0] as Carrier;
    const carrier = isPicture(track) ? (pictureOn(this.plan, event, track.picture) ?? own) : carrierOf(source, track);
    if (isPlain) {
      const channel = isPicture(track) ? '' : this.sourceTrack(event, track, carrier);
      const { sourceIn, sourceOut } = inCarrier(carrier, event);
      const sides = `<start>${event.recordIn}</start><end>${event.recordOut}</end><in>${sourceIn}</in><out>${sourceOut}</out>`;
      return `<clipitem id="${name}${k + 1}">${this.nameOf(carrier.media.name)}<duration>${carrier.length}</duration>${this.rateText}${sides}${this.file(event.source ?? 0, carrier)}${channel}${links}</clipitem>\n`;
    }
    const { media, length: whole } = carrier;
    const carried = inCarrier(carrier, event);
    const isStill = event.hole || isOver || (!isPicture(track) && event.sound === 'mute');
    // In and out points of what is hurried are counted in frames as they play; its time remap says which frames those are.
    const from = speed === 1 ? carried.sourceIn : Math.round(carried.sourceIn / speed);
    const to = from + event.recordOut - event.recordIn;
    const remark = event.hole ? SOUND_REMARKS.hole : event.sound ? SOUND_REMARKS[event.sound] : undefined;
    return element(
      'clipitem',
      [
        leaf('name', media.name),
        ...(event.off || isStill ? [leaf('enabled', 'FALSE')] : []),
        leaf('duration', speed === 1 ? whole : Math.round(whole / speed)),
        this.rateText,
        // Beside a transition an edge is told by the transition, and the clip reaches as far as that needs.
        leaf('start', before ? -1 : event.recordIn),
        leaf('end', after ? -1 : event.recordOut),
        leaf('in', from - (before ?? 0)),
        leaf('out', to + (after ?? 0)),
        this.file(event.source ?? 0, carrier),
        isPicture(track) ? '' : this.sourceTrack(event, track, carrier),
        ...(speed === 1 ? [] : [timeRemap(carried, from, to, speed, whole, isPicture(track) ? 'video' : 'audio')]),
        ...(closer ? [shownLarger(closer, this.plan.centre)] : []),
        ...(remark ? [element('comments', [leaf('clipcommenta', remark)])] : []),
        links,
      ],
      `${name}${k + 1}`,
    );
  }

  private nameOf(name: string): string {
    const known = this.names.get(name) ?? leaf('name', name);
    this.names.set(name, known);
    return known;
  }

  private sourceTrack({ source = 0 }: TimelineEvent, channel: Channel, carrier: Carrier): string {
    const known = channel.tracks[source];
    if (known !== undefined) return known;
    const text = `<sourcetrack><mediatype>audio</mediatype><trackindex>${channelIn(carrier, channel.stream, channel.channel)}</trackindex></sourcetrack>`;
    channel.tracks[source] = text;
    return text;
  }

  /** The others of one event, picture and sounds, which are moved and cut together with it. */
  private links(k: number, self: string): string {
    const { tracks, has } = this;
    let links = '';
    for (const [t, { id, group }] of tracks.entries())
      if (id !== self && has[k * tracks.length + t]) links += `<link><linkclipref>${id}${k + 1}</linkclipref>${group}</link>`;
    return links;
  }

  /** On which of the tracks each event has a clip that is linked with the others: a row of all tracks for each event. */
  private linked(): Uint8Array {
    const { plan, tracks } = this;
    const has = new Uint8Array(plan.events.length * tracks.length);
    for (const [k, event] of plan.events.entries())
      for (const [t, { track }] of tracks.entries()) {
        const isLinked = isPicture(track)
          ? pictureOn(plan, event, track.picture) !== undefined || (event.hole && track.picture === 0)
          : event.off
            ? !track.cleaned && isRecorded(plan, event, track.stream)
            : hasSound(plan, event, track.stream);
        if (isLinked) has[k * tracks.length + t] = 1;
      }
    return has;
  }

  private file(index: number, { key, media, start, length }: Carrier): string {
    const id = `file-${index + 1}${key && `-${key}`}`;
    if (this.defined.has(id)) return `<file id="${id}"/>`;
    this.defined.add(id);
    const channels = channelsOf(media).reduce((sum, count) => sum + count, 0);
    return element(
      'file',
      [
        leaf('name', media.name),
        leaf('pathurl', media.location ?? encodeURIComponent(media.name)),
        this.rateText,
        leaf('duration', length),
        this.timecode(start),
        element('media', [
          ...(media.hasVideo
            ? [
                element('video', [
                  element('samplecharacteristics', [
                    this.rateText,
                    ...(media.width && media.height ? leaves({ width: media.width, height: media.height }) : []),
                  ]),
                ]),
              ]
            : []),
          ...(channels > 0
            ? [
                element('audio', [
                  element('samplecharacteristics', leaves({ depth: 16, samplerate: media.sampleRate ?? 48_000 })),
                  leaf('channelcount', channels),
                ]),
              ]
            : []),
        ]),
      ],
      id,
    );
  }

  private timecode(count: Frames): string {
    const { rate, mode } = this.plan;
    return element('timecode', [
      this.rateText,
      ...leaves({
        string: formatTimecode(count, rate, mode),
        frame: count,
        displayformat: mode === 'drop' ? 'DF' : 'NDF',
      }),
    ]);
  }

  private transition(at: number, half: number, effect: Readonly<Record<string, string>>): string {
    return element('transitionitem', [
      ...leaves({ start: at - half, end: at + half, alignment: 'center' }),
      this.rateText,
      element('effect', [...leaves(effect)]),
    ]);
  }
}

function* inARow(clips: Iterable<string>, others: readonly string[]): Generator<string> {
  yield* clips;
  yield* others;
}

/** Effects as the published format names them. */
const CROSS_FADE = {
  name: 'Cross Fade (0dB)',
  effectid: 'KGAudioTransCrossFade0dB',
  effecttype: 'transition',
  mediatype: 'audio',
};
const DISSOLVE = {
  name: 'Cross Dissolve',
  effectid: 'Cross Dissolve',
  effectcategory: 'Dissolve',
  effecttype: 'transition',
  mediatype: 'video',
};

/** A picture that is larger than its frame: in percent, with the place of its middle in frames of its own size. */
function shownLarger(closer: number, centre: CentrePoint): string {
  const { x, y } = offsetOf(closer, centre);
  const parameter = (id: string, value: string) => element('parameter', [...leaves({ parameterid: id, name: id }), value]);
  const rounded = (share: number) => Math.round(share * 1e6) / 1e6;
  return element('filter', [
    element('effect', [
      ...leaves({ name: 'Basic Motion', effectid: 'basic', effectcategory: 'motion', effecttype: 'motion', mediatype: 'video' }),
      parameter('scale', leaf('value', Math.round(1e4 * (1 + closer)) / 100)),
      parameter('center', element('value', leaves({ horiz: rounded(x), vert: rounded(y) }))),
    ]),
  ]);
}

const rateText = (rate: FrameRate): string =>
  element('rate', leaves({ timebase: nominalRate(rate), ntsc: rate.den === 1001 ? 'TRUE' : 'FALSE' }));

function markerText(marker: Marker): string {
  const { name, comment, at, length } = marker;
  const [red, green, blue] = colourOf(marker).rgb;
  return element('marker', [
    ...leaves({ name, comment, in: at, out: length > 0 ? at + length : -1 }),
    element('color', leaves({ alpha: 0, red, green, blue })),
  ]);
}

function timeRemap(
  event: TimelineEvent,
  from: number,
  to: number,
  speed: number,
  whole: number,
  mediatype: 'video' | 'audio',
): string {
  const parameter = (id: string, value: string | number) => element('parameter', leaves({ parameterid: id, name: id, value }));
  const point = (when: number, value: number, mark: string) => element('keyframe', leaves({ when, value, [mark]: 'TRUE' }));
  return element('filter', [
    element('effect', [
      ...leaves({ name: 'Time Remap', effectid: 'timeremap', effectcategory: 'motion', effecttype: 'motion', mediatype }),
      parameter('variablespeed', 0),
      parameter('speed', Math.round(speed * 1e6) / 1e4),
      parameter('reverse', 'FALSE'),
      parameter('frameblending', 'FALSE'),
      element('parameter', [
        ...leaves({ parameterid: 'graphdict', name: 'graphdict', valuemin: 0, valuemax: whole, value: 0 }),
        point(from, event.sourceIn, 'speedkfin'),
        point(to, event.sourceOut, 'speedkfout'),
      ]),
    ]),
  ]);
}
