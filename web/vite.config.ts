import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'
import { compression } from 'vite-plugin-compression2'
import { VitePWA } from 'vite-plugin-pwa'

// The service worker keeps the pages usable without a network; data are kept by data/keep.ts, never by its cache.
export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    VitePWA({
      registerType: 'autoUpdate',
      injectRegister: 'script-defer',
      manifest: {
        name: 'Bendro',
        short_name: 'Bendro',
        description: 'Fair-test trials of small devices',
        display: 'standalone',
        background_color: '#f5f2e9',
        theme_color: '#f4c531',
        icons: [{ src: '/icon.svg', sizes: 'any', type: 'image/svg+xml' }],
      },
      workbox: {
        skipWaiting: true, // the pages of a newer Bendro come at the next load, not when every tab has been closed
        globPatterns: ['**/*.{js,css,html,svg,woff2}'],
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//, /^\/(metrics|healthz|readyz)$/, /\.txt$/],
      },
    }),
    // compressed once when it is built, not at every request (bendro/api/pages.py chooses by what the browser takes)
    compression({ include: /\.(js|css|svg|html|webmanifest)$/, algorithms: ['gzip', 'brotliCompress'], threshold: 500 }),
  ],
  build: {
    chunkSizeWarningLimit: 900,
    // small pieces that most pages need come as one, and so do those of everything that shows trials: fewer names to list and to ask for
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: 'trials', test: /src\/(machines\/(trialRun|turns|drops|missing|going)|data\/(measures|trials|useTrialsSeen|screens|useQueue|scales)|tape\/(Tape|Marks|marks|geometry|scale)|parts\/glue|stages\/run\/Elapsed)/, priority: 2 },
            { name: 'common', test: /src\/(machines|data|parts|planning)\//, minShareCount: 12, priority: 1 },
          ],
        },
      },
    },
  },
})
