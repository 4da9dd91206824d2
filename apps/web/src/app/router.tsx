import { createBrowserRouter, Navigate } from 'react-router';
import { preload } from 'swr';
import { jobKeys } from '../data/job.ts';
import { read } from '../data/reads.ts';
import { Gate } from './Gate.tsx';
import { RouteTrouble } from './RouteTrouble.tsx';

/** Start what a page will ask for while its code is still on its way; the page reads it from the same cache. */
function ahead(...paths: string[]): null {
  for (const path of paths) void preload(path, read).catch(() => {});
  return null;
}

const Opening = () => <p className="p-6 text-soft">Opening…</p>;

export const router = createBrowserRouter([
  {
    path: '/welcome',
    // A one-time link works whoever is signed in on this browser.
    lazy: async () => ({ Component: (await import('../pages/people/Welcome.tsx')).Welcome }),
    ErrorBoundary: RouteTrouble,
    HydrateFallback: Opening,
  },
  {
    path: '/',
    Component: Gate,
    ErrorBoundary: RouteTrouble,
    HydrateFallback: Opening,
    loader: () => ahead('/session'),
    children: [
      {
        ErrorBoundary: RouteTrouble,
        children: [
          {
            index: true,
            loader: () => ahead('/jobs/counts'),
            lazy: async () => ({ Component: (await import('../pages/board/Board.tsx')).Board }),
          },
          {
            path: 'new',
            loader: () => ahead('/vehicles', '/bays', '/adapters'),
            lazy: async () => ({ Component: (await import('../pages/newJob/NewJob.tsx')).NewJob }),
          },
          {
            path: 'practice',
            loader: () => ahead('/bays'),
            lazy: async () => ({ Component: (await import('../pages/practice/Practice.tsx')).Practice }),
          },
          {
            path: 'calculators',
            lazy: async () => ({
              Component: (await import('../pages/calculators/CalculatorsPage.tsx')).CalculatorsPage,
            }),
          },
          {
            path: 'shop',
            loader: () => ahead('/shop/settings'),
            lazy: async () => ({ Component: (await import('../pages/shop/ShopPage.tsx')).ShopPage }),
          },
          {
            path: 'people',
            loader: () => ahead('/people'),
            lazy: async () => ({ Component: (await import('../pages/people/PeoplePage.tsx')).PeoplePage }),
          },
          {
            path: 'account',
            loader: () => ahead('/account/sessions'),
            lazy: async () => ({ Component: (await import('../pages/people/AccountPage.tsx')).AccountPage }),
          },
          {
            path: 'jobs/:jobId/:station?',
            loader: ({ params }) => ahead(...jobKeys(params.jobId!)),
            // From station to station the job is the same: what changes it is told over the socket.
            shouldRevalidate: ({ currentParams, nextParams }) => currentParams.jobId !== nextParams.jobId,
            lazy: async () => ({ Component: (await import('../pages/job/JobPage.tsx')).JobPage }),
          },
          { path: '*', element: <Navigate to="/" replace /> },
        ],
      },
    ],
  },
]);
