import { fileURLToPath } from 'node:url';
import node from '@astrojs/node';
import react from '@astrojs/react';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'astro/config';

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'standalone' }),
  integrations: [react()],
  devToolbar: { enabled: false },
  // Origins are checked in src/middleware.ts, for all methods and content types.
  security: { checkOrigin: false },
  vite: {
    plugins: [tailwindcss()],
    // Astro reads this from tsconfig.json, web workers do not.
    resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
    build: { target: 'es2022' },
    worker: { format: 'es' },
  },
});
