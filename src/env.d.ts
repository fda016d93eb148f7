/// <reference types="astro/client" />

declare module 'soundtouchjs';
