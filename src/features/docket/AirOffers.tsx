import { formatLength } from '@/core/time/clock.ts';
import { openAll } from '../episode/review/air.ts';
import { useModel } from '../episode/session/useEpisode.ts';
import { useDocket } from './useDocket.ts';

/** The same side was opened several times by about as much: it can be opened everywhere. */
export function AirOffers() {
  const model = useModel();
  const offers = useDocket((s) => s.docket?.airOffers);
  return offers?.map(({ side, seconds, cuts }) => (
    <section key={side} className="mt-2 rounded border border-warning p-2 text-sm" aria-label="Offer of air">
      <p>
        You opened {side === 'after' ? 'the end of the word before' : 'the start of the next word'} at {cuts} cuts, by about{' '}
        {formatLength(seconds)}. Open it everywhere?
      </p>
      <div className="mt-1 flex gap-1">
        <button type="button" className="btn btn-primary btn-xs" onClick={() => openAll(model, side, seconds)}>
          {formatLength(seconds)} more everywhere
        </button>
        <button type="button" className="btn btn-xs" onClick={() => model.decide({ type: 'airKept', side })}>
          Leave it
        </button>
      </div>
    </section>
  ));
}
