import { copyFileSync, mkdirSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { AntDesignVueResolver } from 'unplugin-vue-components/resolvers'
import { defineConfig, type Plugin } from 'vite'

// into the Python package: what is served from a checkout and what is packed into the wheel are one
const OUT = '../src/brisk_larder/web/'

// The API's docs page works with no network: its script and style ship with the build.
function offlineApiDocs(): Plugin {
  return {
    name: 'offline-api-docs',
    apply: 'build',
    closeBundle() {
      const from = fileURLToPath(new URL('./node_modules/swagger-ui-dist/', import.meta.url))
      const to = fileURLToPath(new URL(`${OUT}api-docs/`, import.meta.url))
      mkdirSync(to, { recursive: true })
      for (const name of ['swagger-ui-bundle.js', 'swagger-ui.css']) copyFileSync(from + name, to + name)
    },
  }
}

export default defineConfig({
  plugins: [
    vue({ template: { compilerOptions: { whitespace: 'preserve' } } }),
    // our own parts and Ant Design Vue's (as <AButton>) are imported where a template names them
    Components({
      dirs: ['src/parts'],
      dts: 'src/components.d.ts',
      resolvers: [AntDesignVueResolver({ importStyle: false })],
    }),
    offlineApiDocs(),
  ],
  build: {
    target: 'es2022',
    outDir: OUT,
    emptyOutDir: true,
    sourcemap: false,
    chunkSizeWarningLimit: 900,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            {
              name: 'vue',
              test: /node_modules[\\/](@vue|vue|vue-router|vue-demi|@tanstack|@vueuse)[\\/]/,
              priority: 30,
            },
          ],
        },
      },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8437' } },
})
