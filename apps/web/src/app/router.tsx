import { ROUTES } from '@just-balance/contract';
import { createBrowserRouter, Navigate } from 'react-router';
import { preload } from 'swr';
import { jobKeys } from '../data/job.ts';
import { read } from '../data/reads.ts';
import { wasSignedIn } from '../data/session.tsx';
import { Gate } from './Gate.tsx';
import { RouteTrouble } from './RouteTrouble.tsx';

/**
 * Start what a page will ask for while its code is still on its way; the page reads it from the same cache. Only where
 * somebody was signed in here: a refusal would be read from that cache as well.
 */
function ahead(...paths: readonly string[]): null {
  if (!wasSignedIn()) return null;
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
    loader: () => {
      void preload(ROUTES.session, read).catch(() => {});
      return null;
    },
    children: [
      {
        ErrorBoundary: RouteTrouble,
        children: [
          {
            index: true,
            loader: () => ahead(ROUTES.jobCounts),
            lazy: async () => ({ Component: (await import('../pages/board/Board.tsx')).Board }),
          },
          {
            path: 'new',
            loader: () => ahead(ROUTES.vehicles, ROUTES.bays, ROUTES.adapters),
            lazy: async () => ({ Component: (await import('../pages/newJob/NewJob.tsx')).NewJob }),
          },
          {
            path: 'parts',
            loader: () => ahead(ROUTES.orders),
            lazy: async () => ({ Component: (await import('../pages/parts/PartsPage.tsx')).PartsPage }),
          },
          {
            path: 'logbook',
            lazy: async () => ({ Component: (await import('../pages/logbook/LogbookPage.tsx')).LogbookPage }),
          },
          {
            path: 'learned',
            loader: () => ahead(ROUTES.learned),
            lazy: async () => ({ Component: (await import('../pages/learned/LearnedPage.tsx')).LearnedPage }),
          },
          {
            path: 'vehicles/:vehicleId',
            loader: ({ params }) => ahead(ROUTES.vehicleHistory(params.vehicleId!)),
            lazy: async () => ({ Component: (await import('../pages/vehicle/VehiclePage.tsx')).VehiclePage }),
          },
          {
            path: 'practice',
            loader: () => ahead(ROUTES.scenarios, ROUTES.attempts),
            lazy: async () => ({ Component: (await import('../pages/practice/Practice.tsx')).Practice }),
          },
          {
            path: 'practice/:attemptId',
            lazy: async () => ({ Component: (await import('../pages/practice/Debrief.tsx')).Debrief }),
          },
          {
            path: 'calculators',
            lazy: async () => ({
              Component: (await import('../pages/calculators/CalculatorsPage.tsx')).CalculatorsPage,
            }),
          },
          {
            path: 'shop',
            loader: () => ahead(ROUTES.settings),
            lazy: async () => ({ Component: (await import('../pages/shop/ShopPage.tsx')).ShopPage }),
          },
          {
            path: 'audit',
            lazy: async () => ({ Component: (await import('../pages/audit/AuditPage.tsx')).AuditPage }),
          },
          {
            path: 'people',
            loader: () => ahead(ROUTES.people),
            lazy: async () => ({ Component: (await import('../pages/people/PeoplePage.tsx')).PeoplePage }),
          },
          {
            path: 'account',
            loader: () => ahead(ROUTES.ownSessions),
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
