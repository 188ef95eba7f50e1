import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';
import { browserScripts, nodeWorkers } from './bundled-text-plugin.ts';

export default defineConfig({
  plugins: [nodeWorkers(), browserScripts(), tailwindcss(), sveltekit()],
  worker: { format: 'es' },
  build: {
    target: 'es2022',
    chunkSizeWarningLimit: 700,
    // Fonts come from this server, never from a data: address, which the Content-Security-Policy refuses.
    assetsInlineLimit: 0
  },
  ssr: {
    noExternal: ['@tromix/core', '@tromix/load'],
    optimizeDeps: { include: ['bits-ui', 'svelte-sonner'] }
  }
});
