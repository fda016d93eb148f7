import { fileURLToPath } from 'node:url';
import node from '@astrojs/node';
import react from '@astrojs/react';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'astro/config';

/** The one worker of the page has a name that is known before it is built: pages start it ahead of their scripts. */
const THREAD = `_astro/cut.worker-${Date.now().toString(36)}.js`;

export default defineConfig({
  output: 'server',
  // The server is ours: src/server/http/webServer.ts.
  adapter: node({ mode: 'middleware' }),
  integrations: [react()],
  devToolbar: { enabled: false },
  // Origins are checked in src/middleware.ts, for all methods and content types.
  security: { checkOrigin: false },
  vite: {
    plugins: [tailwindcss()],
    // Astro reads this from tsconfig.json, web workers do not.
    resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
    build: { target: 'es2022' },
    worker: {
      format: 'es',
      rollupOptions: { output: { entryFileNames: ({ name }) => (name === 'cut.worker' ? THREAD : '_astro/[name]-[hash].js') } },
    },
    define: { 'import.meta.env.THREAD_ADDRESS': JSON.stringify(`/${THREAD}`) },
  },
});
