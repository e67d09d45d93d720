'use client';
// All pages. They render only in the browser, because their data comes from the API anyway; that makes the build a quarter shorter. The frame around them
// (shell/) is rendered by the server.

import { inBrowser } from './kit/inBrowser';

export const CarryPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./carry/CarryPage')).CarryPage,
);
export const CollectPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./collect/CollectPage')).CollectPage,
);
export const FilesPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./files/FilesPage')).FilesPage,
);
export const HelpPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./settings/HelpPage')).HelpPage,
);
export const Join = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./studio/Join')).Join,
);
export const LayoutsPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./layouts/LayoutsPage')).LayoutsPage,
);
export const LedgerPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./ledger/LedgerPage')).LedgerPage,
);
export const MapPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./map/MapPage')).MapPage,
);
export const OverviewPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./overview/OverviewPage')).OverviewPage,
);
export const PeoplePage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./studio/PeoplePage')).PeoplePage,
);
export const PipelinesPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./studio/PipelinesPage')).PipelinesPage,
);
export const ReferencesPage = inBrowser(
  typeof window === 'undefined'
    ? null
    : async () => (await import('./references/ReferencesPage')).ReferencesPage,
);
export const ReviewPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./review/ReviewPage')).ReviewPage,
);
export const SettingsPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./settings/SettingsPage')).SettingsPage,
);
export const SignIn = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./studio/SignIn')).SignIn,
);
export const TravelPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./travel/TravelPage')).TravelPage,
);
export const VersionsPage = inBrowser(
  typeof window === 'undefined' ? null : async () => (await import('./versions/VersionsPage')).VersionsPage,
);
export const WorkspacesPage = inBrowser(
  typeof window === 'undefined'
    ? null
    : async () => (await import('./workspaces/WorkspacesPage')).WorkspacesPage,
);
