import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import { PEAK_LAYERS } from '@/core/curves/peaks.ts';
import { PeakSource } from '../score/peakSource.ts';

const HEIGHT = 34;

/** The whole recording at a glance. */
export function Silhouette({ mediaId, duration, tracks }: { mediaId: string; duration: number; tracks: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [peaks] = useState(() => new PeakSource());
  const [version, setVersion] = useState(0);
  useEffect(() => peaks.onLoad(() => setVersion((n) => n + 1)), [peaks]);
  useEffect(() => {
    const renew = () => setVersion((n) => n + 1);
    window.addEventListener('themechange', renew);
    return () => window.removeEventListener('themechange', renew);
  }, []);

  useLayoutEffect(() => {
    const element = canvas.current;
    const c = element?.getContext('2d');
    if (!element || !c) return;
    peaks.configure([{ mediaId, tracks, start: 0, end: duration }]);
    const width = element.clientWidth;
    const density = window.devicePixelRatio || 1;
    element.width = width * density;
    element.height = HEIGHT * density;
    c.setTransform(density, 0, 0, density, 0, 0);
    c.fillStyle = getComputedStyle(document.documentElement).getPropertyValue('--ink-out');
    const peak = { low: 0, high: 0 };
    const step = duration / width;
    const layer = step < 1.3 ? PEAK_LAYERS - 2 : PEAK_LAYERS - 1;
    for (let x = 0; x < width; x++) {
      let loud = 0;
      for (let track = 0; track < tracks; track++)
        if (peaks.read(track, layer, x * step, (x + 1) * step, peak)) loud = Math.max(loud, peak.high, -peak.low);
      const reach = Math.max(0.5, (loud / 127) * (HEIGHT / 2));
      c.fillRect(x, HEIGHT / 2 - reach, 1, reach * 2);
    }
  }, [peaks, mediaId, duration, tracks, version]);

  return <canvas ref={canvas} aria-hidden className="w-full" style={{ height: HEIGHT }} />;
}
