import { benchBrowser } from './bench/browser.ts';
import { longRecording } from './bench/recording.ts';
for (const l of await benchBrowser(await longRecording())) console.log(l.ok?'ok':'--',l.what,l.value);
process.exit(0);
