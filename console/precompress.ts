import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import type { Plugin } from 'vite';

const leastBytes = 1024;

/** Puts the entry's style into the page itself: nothing is drawn before it is there, so it travels with the first answer. */
export function inlineStyle(): Plugin {
  return {
    name: 'inline-style',
    apply: 'build',
    transformIndexHtml: {
      order: 'post',
      handler(html, { bundle }) {
        return html.replace(/<link rel="stylesheet"[^>]* href="\/([^"]+)">/, (link, name: string) => {
          const style = bundle?.[name];
          return style?.type === 'asset' ? `<style>${String(style.source)}</style>` : link;
        });
      },
    },
  };
}

/** Writes each text that is worth it once more in brotli (RFC 7932) and once in gzip (RFC 1952): the service sends what the browser takes. */
export function precompress(): Plugin {
  let folder = '';
  return {
    name: 'precompress',
    apply: 'build',
    configResolved(config) {
      folder = join(config.root, config.build.outDir);
    },
    closeBundle() {
      for (const name of readdirSync(folder, { recursive: true, encoding: 'utf8' })) {
        const path = join(folder, name);
        if (!/\.(html|js|css|svg|json)$/.test(name) || statSync(path).size < leastBytes) {
          continue;
        }
        const text = readFileSync(path);
        writeFileSync(
          `${path}.br`,
          brotliCompressSync(text, { params: { [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY } }),
        );
        writeFileSync(`${path}.gz`, gzipSync(text, { level: 9 }));
      }
    },
  };
}
