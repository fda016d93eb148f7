import { useState } from 'react';
import { type CaptionStyle, DEFAULT_STYLE, LETTER_CASES } from '@/core/outputs/captions/style.ts';
import type { HandoffOptions } from '@/core/outputs/messages.ts';
import { Check } from '@/ui/Check.tsx';
import { Choice } from '@/ui/Choice.tsx';
import { NumberSlider } from '@/ui/NumberSlider.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

interface Props {
  readonly options: HandoffOptions;
  readonly onChange: (changed: Partial<HandoffOptions>) => void;
}

type Figure = 'letters' | 'lines' | 'words' | 'least' | 'most' | 'speed' | 'closeGap';
interface FigureAbout {
  readonly label: string;
  readonly help: string;
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  readonly step: number;
}

const LINES: Readonly<Record<'letters' | 'lines', FigureAbout>> = {
  letters: { label: 'Line length', help: 'Letters that a line holds.', unit: 'chars', min: 16, max: 80, step: 1 },
  lines: { label: 'Lines', help: 'Lines of one caption.', unit: 'lines', min: 1, max: 4, step: 1 },
};
const WORDS: FigureAbout = { label: 'Words', help: 'Words of one caption.', unit: 'words', min: 1, max: 8, step: 1 };
const TIMES: Readonly<Record<'least' | 'most' | 'speed' | 'closeGap', FigureAbout>> = {
  least: { label: 'At least', help: 'On screen, where the next one lets it.', unit: 's', min: 0, max: 4, step: 0.1 },
  most: { label: 'At most', help: 'Longer ones are parted.', unit: 's', min: 1, max: 12, step: 0.1 },
  speed: { label: 'To be read', help: 'Letters a second, at most.', unit: 'ch/s', min: 8, max: 40, step: 1 },
  closeGap: { label: 'Close gaps', help: 'That are shorter than this.', unit: 's', min: 0, max: 2, step: 0.1 },
};

/** How captions are shaped: by lines, or by a few words at a time for short clips. */
export function CaptionChoices({ options, onChange }: Props) {
  const model = useModel();
  const style = options.captions;
  const shows = useEpisode((s) => s.captions !== undefined);
  const [draft, setDraft] = useState<Partial<CaptionStyle>>({});
  const set = (changed: Partial<CaptionStyle>) => {
    setDraft({});
    const captions = { ...style, ...changed };
    onChange({ captions });
    if (shows) model.show({ captions });
  };
  const slider = (name: Figure, about: FigureAbout, usual: number = DEFAULT_STYLE[name]) => (
    <NumberSlider
      key={name}
      {...about}
      value={draft[name] ?? style[name]}
      changed={style[name] !== usual}
      onMove={(value) => setDraft({ [name]: value })}
      onSettle={(value) => set({ [name]: value })}
      onReset={() => set({ [name]: usual })}
    />
  );
  return (
    <>
      <Check checked={shows} onChange={(checked) => model.show({ captions: checked ? style : undefined })}>
        show captions while it plays
      </Check>
      <Choice<'lines' | 'words'>
        label="Captions by"
        options={[
          ['lines', 'whole lines'],
          ['words', 'a few words'],
        ]}
        value={style.words > 0 ? 'words' : 'lines'}
        onChoose={(by) => set({ words: by === 'words' ? 3 : 0 })}
      />
      {style.words > 0 ? slider('words', WORDS, 3) : (['letters', 'lines'] as const).map((name) => slider(name, LINES[name]))}
      <Choice<CaptionStyle['letterCase']>
        label="Letters"
        options={LETTER_CASES.map((one) => [one, one] as const)}
        value={style.letterCase}
        onChoose={(letterCase) => set({ letterCase })}
      />
      {(['least', 'most', 'speed', 'closeGap'] as const).map((name) => slider(name, TIMES[name]))}
      <Check checked={style.speakers} onChange={(checked) => set({ speakers: checked })}>
        names of speakers where they change
      </Check>
      <Check checked={options.mask} onChange={(checked) => onChange({ mask: checked })}>
        mask words of the list
      </Check>
    </>
  );
}
