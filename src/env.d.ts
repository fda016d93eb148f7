/// <reference types="astro/client" />

declare module 'soundtouchjs';

interface ImportMetaEnv {
  /** where the page's worker lies; see astro.config.mjs */
  readonly THREAD_ADDRESS: string;
}
