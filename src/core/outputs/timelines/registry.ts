import { csv } from './csv.ts';
import { edl } from './edl.ts';
import type { TimelineFormat } from './format.ts';
import { json } from './json.ts';
import { otio } from './otio.ts';
import { xml } from './xml.ts';

/** Every timeline format there is. A new one is a file of its own and a line here. */
export const FORMATS: readonly TimelineFormat[] = [xml, otio, edl, csv, json];
