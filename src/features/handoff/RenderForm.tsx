import type { ComponentProps } from 'react';
import type { CentrePoint as Centre } from '@/core/programme/views.ts';
import {
  endingOf,
  isCopied,
  isOfPicture,
  LOUDNESS,
  PICTURE_SIZES,
  QUALITIES,
  RENDER_FORMAT_IDS,
  RENDER_FORMATS,
  type RenderChoices,
  type RenderFormatId,
  tracksIn,
} from '@/core/render/choices.ts';
import { Check } from '@/ui/Check.tsx';
import { Choice } from '@/ui/Choice.tsx';
import { NumberSlider } from '@/ui/NumberSlider.tsx';
import { SelectLine } from '@/ui/SelectLine.tsx';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { CentrePoint } from './CentrePoint.tsx';

interface Props {
  readonly choices: RenderChoices;
  readonly missing: readonly string[];
  /** whether a picture may be copied in part */
  readonly copies: boolean;
  readonly hasWords: boolean;
  readonly hasPicture: boolean;
  readonly centre: Centre;
  readonly onCentre: (centre: Centre) => void;
  readonly onChange: (changed: Partial<RenderChoices>) => void;
}

/** What a finished file shall be. */
export function RenderForm({ choices, missing, copies, hasWords, hasPicture, centre, onCentre, onChange }: Props) {
  const ofPicture = isOfPicture(choices.format);
  const tracks = useEpisode((s) => Math.max(1, ...(s.detail?.recordings ?? []).map(({ facts }) => facts.audio.length)));
  return (
    <div className="mt-2">
      <SelectLine<RenderFormatId>
        label="Format"
        options={RENDER_FORMAT_IDS.map((id) => ({
          value: id,
          label: `${RENDER_FORMATS[id].label} (.${endingOf(id)})${missing.includes(id) ? ': no encoder on this server' : ''}`,
          disabled: missing.includes(id),
        }))}
        value={choices.format}
        onChoose={(format) => onChange({ format })}
      />
      <p className="text-xs leading-snug quiet">
        {RENDER_FORMATS[choices.format].help}
        {ofPicture && !hasPicture && ' This episode has no picture: its sound is shown on a plain one.'}
      </p>
      {ofPicture && <PictureForm {...{ choices, copies, hasWords, centre, onCentre, onChange }} />}
      {tracksIn({ format: choices.format, tracks: 'apart' }, tracks) > 1 && (
        <Choice<RenderChoices['tracks']>
          label="Tracks"
          options={[
            ['mixed', 'mixed'],
            ['apart', 'kept apart'],
          ]}
          value={choices.tracks}
          onChoose={(chosen) => onChange({ tracks: chosen })}
        />
      )}
      <Check checked={choices.cleaned} onChange={(cleaned) => onChange({ cleaned })}>
        with the sound cleaned, as it is chosen below
      </Check>
      <LoudnessForm {...{ choices, onChange }} />
      <Choice<RenderChoices['masks']>
        label="In place of masked words"
        help={hasWords ? 'The list is kept under “Captions and words”.' : 'They need words: see the Words tray.'}
        options={[
          ['nothing', 'nothing'],
          ['tone', 'a tone'],
          ['silence', 'silence'],
        ]}
        value={choices.masks}
        disabled={!hasWords}
        onChoose={(masks) => onChange({ masks })}
      />
    </div>
  );
}

interface FigureProps
  extends Pick<ComponentProps<typeof NumberSlider>, 'label' | 'help' | 'unit' | 'min' | 'max' | 'step' | 'value'> {
  readonly usual: number;
  readonly onSet: (value: number) => void;
}

/** A number that counts while it moves: nothing is computed by it. */
const Figure = ({ usual, onSet, ...about }: FigureProps) => (
  <NumberSlider {...about} changed={about.value !== usual} onMove={onSet} onSettle={onSet} onReset={() => onSet(usual)} />
);

type Part = Pick<Props, 'choices' | 'onChange'>;

function PictureForm({
  choices,
  copies,
  hasWords,
  centre,
  onCentre,
  onChange,
}: Part & Pick<Props, 'copies' | 'hasWords' | 'centre' | 'onCentre'>) {
  const isCut = choices.size === 'upright' || choices.size === 'square';
  return (
    <>
      <SelectLine<RenderChoices['size']>
        label="Picture"
        options={Object.entries(PICTURE_SIZES).map(([value, label]) => ({ value: value as RenderChoices['size'], label }))}
        value={choices.size}
        onChoose={(size) => onChange({ size })}
      />
      {isCut && <CentrePoint size={choices.size} closer={0} centre={centre} onChange={onCentre} />}
      <Choice<RenderChoices['quality'] | 'size' | 'copied'>
        label="Quality"
        help={
          isCopied(choices) ? 'What is untouched is copied as it was recorded; only what lies beside cuts is encoded.' : undefined
        }
        options={[
          ...(Object.entries(QUALITIES) as [RenderChoices['quality'], string][]),
          ['size', 'by size'],
          ...(copies && isCopied({ ...choices, copies: true, megabytes: null }) ? [['copied', 'quick copy'] as const] : []),
        ]}
        value={isCopied(choices) ? 'copied' : choices.megabytes === null ? choices.quality : 'size'}
        onChoose={(chosen) => {
          if (chosen === 'copied') onChange({ copies: true, megabytes: null });
          else if (chosen === 'size') onChange({ copies: false, megabytes: 100 });
          else onChange({ copies: false, megabytes: null, quality: chosen });
        }}
      />
      {choices.megabytes !== null && (
        <Figure
          label="Size"
          help="About so large the file will be."
          unit="MB"
          min={5}
          max={4000}
          step={5}
          value={choices.megabytes}
          usual={100}
          onSet={(megabytes) => onChange({ megabytes })}
        />
      )}
      <Choice<RenderChoices['captions']>
        label="Captions"
        help={hasWords ? undefined : 'They need words: see the Words tray.'}
        options={[
          ['none', 'none'],
          ['track', 'to switch on'],
          ['burnt in', 'in the picture'],
        ]}
        value={choices.captions}
        disabled={!hasWords}
        onChoose={(captions) => onChange({ captions })}
      />
      {choices.captions === 'burnt in' && (
        <>
          <Choice<RenderChoices['captionPlace']>
            label="Where they stand"
            options={(['top', 'middle', 'bottom'] as const).map((place) => [place, place] as const)}
            value={choices.captionPlace}
            onChoose={(captionPlace) => onChange({ captionPlace })}
          />
          <Figure
            label="Letters"
            help="Height of a line, of the picture's."
            unit="%"
            min={3}
            max={12}
            step={0.5}
            value={choices.captionSize}
            usual={6}
            onSet={(captionSize) => onChange({ captionSize })}
          />
        </>
      )}
    </>
  );
}

const USES = { podcast: 'podcast', stereo: 'music players', broadcast: 'broadcast' } as const;

/** A loudness that is not one of those by use, to begin with. */
const OWN = -18;

function LoudnessForm({ choices: { loudness }, onChange }: Part) {
  const use = (Object.keys(LOUDNESS) as (keyof typeof LOUDNESS)[]).find((one) => LOUDNESS[one] === loudness);
  const targets = { 'as it is': null, own: OWN, ...LOUDNESS };
  return (
    <>
      <SelectLine<keyof typeof targets>
        label="Loudness"
        options={[
          { value: 'as it is', label: 'as it is' },
          ...(Object.keys(LOUDNESS) as (keyof typeof LOUDNESS)[]).map((one) => ({
            value: one,
            label: `${LOUDNESS[one]} LUFS, ${USES[one]}`,
          })),
          { value: 'own', label: 'of your own' },
        ]}
        value={loudness === null ? 'as it is' : (use ?? 'own')}
        onChoose={(target) => onChange({ loudness: targets[target] })}
      />
      {loudness !== null && !use && (
        <Figure
          label="LUFS"
          help="Over all of it; peaks stay under -1.5 dB."
          unit="LUFS"
          min={-30}
          max={-8}
          step={0.5}
          value={loudness}
          usual={LOUDNESS.podcast}
          onSet={(moved) => onChange({ loudness: moved })}
        />
      )}
    </>
  );
}
