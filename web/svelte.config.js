import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';
import { sourcesStamp } from '../scripts/prepare.mjs';

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  compilerOptions: { runes: true },
  kit: {
    // The clock, which is the default, gives a build and a `sync` that runs beside it two names, and the page
    // then looks for its start under the other one.
    version: { name: sourcesStamp() },
    adapter: adapter({ out: 'build', precompress: true }),
    csrf: { trustedOrigins: ['*'] },
    csp: {
      mode: 'nonce',
      directives: {
        'default-src': ['self'],
        'script-src': ['self'],
        'style-src': ['self', 'unsafe-inline'],
        'img-src': ['self', 'data:', 'blob:'],
        'font-src': ['self'],
        'connect-src': ['self'],
        'worker-src': ['self', 'blob:'],
        'object-src': ['none'],
        'base-uri': ['none'],
        'form-action': ['self'],
        'frame-ancestors': ['none']
      }
    },
    typescript: {
      config: (config) => {
        config.include.push(
          '../*.ts',
          '../e2e/**/*.ts',
          '../attacks/**/*.ts',
          '../../core/src/platform.d.ts'
        );
        return config;
      }
    }
  }
};
