import type { Handoff } from '../programme/handoff.ts';
import { csv } from './csv.ts';
import { edl } from './edl.ts';
import type { TimelineFormat } from './format.ts';
import { json } from './json.ts';
import { otio } from './otio.ts';

/** Every timeline format there is. A new one is a file of its own and a line here. */
export const FORMATS: readonly TimelineFormat[] = [edl, otio, csv, json];

export const formatOf = (id: string): TimelineFormat | undefined => FORMATS.find((format) => format.id === id);

/** Name of a written file: the media's name without its ending, the part, and the format's ending. */
export const fileNameFor = ({ stem }: Pick<Handoff, 'stem'>, part: string, format: TimelineFormat): string =>
  `${stem}${part}.${format.id}`;
