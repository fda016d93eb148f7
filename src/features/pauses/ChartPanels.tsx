import { lazy, useEffect, useRef, useState } from 'react';
import type { LevelHistogram } from '@/core/detect/sound/levelOverview.ts';
import { Choice } from '@/ui/Choice.tsx';
import { Later } from '@/ui/Later.tsx';
import { Measure } from '@/ui/Measure.tsx';
import { settingsAtRest, settingsShown } from '../episode/review/tuning.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { POINTS, WhatIf, type WhatIfPoint, type WhatIfSetting } from './whatIf.ts';

// The chart package is as large as all the rest: the score does not wait for it.
const LevelChart = lazy(() => import('./LevelChart.tsx'));
const GapChart = lazy(() => import('./GapChart.tsx'));
const WhatIfChart = lazy(() => import('./WhatIfChart.tsx'));

const WIDTH = 292;
/** A moved setting has rested this long before a curve is computed anew. */
const REST_MS = 250;

/** Levels of the recording with the threshold over them. */
export function LevelPanel() {
  const model = useModel();
  const threshold = useEpisode((s) => settingsShown(s).threshold);
  const histogram = useEpisode((s) => s.histogram);
  if (!histogram) return <div style={{ height: 74 }} />;
  return (
    <Later fallback={<div style={{ height: 74 }} />}>
      <LevelChart
        {...{ histogram }}
        width={WIDTH}
        threshold={threshold === 'auto' ? histogram.threshold : threshold}
        onMove={(moved) => model.tuning.moveSetting({ threshold: moved })}
        onSettle={(settled) => model.tuning.settleSetting('threshold', settled)}
      />
    </Later>
  );
}

/** Lengths of the silences with the shortest pause over them. */
export function GapPanel() {
  const model = useModel();
  const shortest = useEpisode((s) => settingsShown(s).minPause);
  const heardBy = useEpisode((s) => {
    const { threshold, voice, listen, breaths, speck } = settingsAtRest(s);
    return [threshold, voice, listen, breaths, speck].join(' ');
  });
  const material = useEpisode((s) => s.material);
  const [lengths, setLengths] = useState<readonly number[]>();
  useEffect(() => {
    if (material) void model.engine.rhythm(settingsAtRest(model.state)).then((rhythm) => rhythm && setLengths(rhythm.lengths));
  }, [model, material, heardBy]);
  if (!lengths) return <div style={{ height: 64 }} />;
  return (
    <Later fallback={<div style={{ height: 64 }} />}>
      <GapChart
        {...{ lengths, shortest }}
        width={WIDTH}
        onMove={(minPause) => model.tuning.moveSetting({ minPause })}
        onSettle={(minPause) => model.tuning.settleSetting('minPause', minPause)}
      />
    </Later>
  );
}

/** Values worth looking at: under the room everything is sound, over the voice nothing is. */
const spanOf = (about: WhatIfSetting, histogram: LevelHistogram | undefined): readonly [number, number] =>
  about === 'minPause' ? [0.1, 3] : histogram ? [Math.round(histogram.floor) + 4, Math.round(histogram.speech)] : [-70, -20];
const valuesOf = ([from, to]: readonly [number, number]) =>
  Array.from({ length: POINTS }, (_, k) => Math.round((from + ((to - from) * k) / (POINTS - 1)) * 100) / 100);

/**
 * Length and seams along the values of one setting, of the whole or of the marked range that is shown, with all else as it is.
 * Once the curve that is looked at is there, the other is worked out too, and shows at once when it is chosen.
 */
export function WhatIfPanel() {
  const [about, setAbout] = useState<WhatIfSetting>('minPause');
  const material = useEpisode((s) => s.material);
  const decisions = useEpisode((s) => s.decisions);
  // The settled value: painting the chart anew at each step of a slider would hold the slider up.
  const target = useEpisode((s) => s.target);
  const shown = settingsAtRest({ decisions, target })[about];
  const histogram = useEpisode((s) => s.histogram);
  const asker = useRef<WhatIf>(undefined);
  const [points, setPoints] = useState<readonly WhatIfPoint[]>();
  const [share, setShare] = useState(0);
  useEffect(() => {
    if (!material) return;
    const whatIf = new WhatIf(material);
    asker.current = whatIf;
    return () => {
      asker.current = undefined;
      whatIf.close();
    };
  }, [material]);
  useEffect(() => {
    if (!material) return;
    let isOld = false;
    const ask = (name: WhatIfSetting, onShare: (share: number) => void) =>
      asker.current?.ask({ state: decisions, target, name, values: valuesOf(spanOf(name, histogram)) }, onShare);
    const askForBoth = async () => {
      const found = await ask(about, (now) => !isOld && !points && setShare(now));
      if (isOld || !found) return;
      setPoints(found);
      await ask(about === 'minPause' ? 'threshold' : 'minPause', () => {});
    };
    // Whoever asks for another curve is waiting for it.
    const wait = setTimeout(askForBoth, points ? REST_MS : 0);
    return () => {
      isOld = true;
      clearTimeout(wait);
    };
  }, [material, decisions, target, about, histogram]);
  const value = typeof shown === 'number' ? shown : (histogram?.threshold ?? -45);
  return (
    <>
      <Choice
        label="What if another"
        options={[
          ['minPause', 'shortest pause'],
          ['threshold', 'threshold'],
        ]}
        value={about}
        onChoose={(next) => {
          setPoints(undefined);
          setShare(0);
          setAbout(next);
        }}
      />
      <div style={{ minHeight: 146 }}>
        {points && points.length > 0 ? (
          <Later>
            <WhatIfChart {...{ points, value }} width={WIDTH} unit={about === 'minPause' ? 's' : 'dBFS'} />
          </Later>
        ) : (
          <div className="px-4 pt-6">
            <Measure label="Working it out" share={share} />
          </div>
        )}
      </div>
    </>
  );
}
