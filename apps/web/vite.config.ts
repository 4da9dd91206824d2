import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defaultClientConditions, defineConfig } from 'vite';

const api = `http://127.0.0.1:${process.env.JB_PORT ?? 4300}`;

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { conditions: ['@just-balance/source', ...defaultClientConditions] },
  worker: { format: 'es', plugins: () => [] },
  build: { target: 'es2022', manifest: 'manifest.json', chunkSizeWarningLimit: 900, emptyOutDir: false },
  server: { host: '127.0.0.1', proxy: { '/api': api, '/ws': { target: api, ws: true } } },
});
