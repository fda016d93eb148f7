import { Fold } from '@/ui/Fold.tsx';

/** Which published general-purpose models fit: as docs/words.md has it, in short. */
const KINDS = [
  {
    name: 'CTC or transducer, 30 to 700 MB',
    files: 'model, or encoder, decoder and joiner; tokens.txt',
    fits: 'any machine, far faster than speech; mostly one language; exact times of words',
  },
  {
    name: 'encoder-decoder, tiny to base, 40 to 150 MB',
    files: 'encoder, decoder, tokens.txt',
    fits: 'two old cores, about as fast as speech; one language or many, with punctuation',
  },
  {
    name: 'encoder-decoder, small to large, 0.5 to 3 GB',
    files: 'the same',
    fits: 'four new cores and more, 4 to 12 GB of memory; many languages, the best with accents and noise',
  },
  {
    name: 'speaker segmentation, 5 to 20 MB, and speaker embedding, 20 to 100 MB',
    files: 'one network each',
    fits: 'any machine; both together tell who speaks, and where two speak at once',
  },
] as const;

export function ModelGuide() {
  return (
    <Fold title="Which one fits">
      <dl className="text-xs leading-snug">
        {KINDS.map(({ name, files, fits }) => (
          <div key={name} className="py-0.5">
            <dt className="font-semibold">{name}</dt>
            <dd>{fits}</dd>
            <dd className="quiet">Files: {files}.</dd>
          </div>
        ))}
      </dl>
    </Fold>
  );
}
