/// <reference types="astro/client" />

declare module 'soundtouchjs';

declare namespace App {
  interface Locals extends Readonly<import('./server/http/webServer.ts').Asker> {}
}

interface ImportMetaEnv {
  /** where the page's worker lies; see astro.config.mjs */
  readonly THREAD_ADDRESS: string;
}
