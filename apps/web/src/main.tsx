import 'reflect-metadata';
import './index.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { RouterProvider } from 'react-router';
import { SWRConfig } from 'swr';
import { router } from './app/router.tsx';
import { read } from './data/reads.ts';
import { PreferencesProvider } from './ui/preferences.tsx';

// Only over https or on localhost does a browser offer it; without it the page works while the server does.
if (import.meta.env.PROD && 'serviceWorker' in navigator)
  void navigator.serviceWorker.register('/sw.js').catch(() => {});

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <PreferencesProvider>
      <SWRConfig value={{ fetcher: read }}>
        <RouterProvider router={router} />
      </SWRConfig>
    </PreferencesProvider>
  </StrictMode>,
);
