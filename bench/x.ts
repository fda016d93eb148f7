import { benchBrowser } from './browser.ts';
import { longRecording } from './recording.ts';

for (const l of await benchBrowser(await longRecording())) console.log(l.what, l.value);
