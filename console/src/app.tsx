import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy } from 'react';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { Refused } from './api/client';
import { Frame } from './frame/Frame';
import { Nowhere } from './frame/Nowhere';
import { FirstOwnerPage } from './People/FirstOwnerPage';
import { SignedIn } from './People/SignedIn';

// Each page is loaded when it is asked for: whoever signs in waits for none of them.
const BoardPage = lazy(() => import('./Gates/BoardPage').then((page) => ({ default: page.BoardPage })));
const GatePage = lazy(() => import('./Gates/GatePage').then((page) => ({ default: page.GatePage })));
const GatesPage = lazy(() => import('./Gates/GatesPage').then((page) => ({ default: page.GatesPage })));
const HistoryPage = lazy(() => import('./Gates/HistoryPage').then((page) => ({ default: page.HistoryPage })));
const SettingsPage = lazy(() => import('./Gates/SettingsPage').then((page) => ({ default: page.SettingsPage })));
const SweepPage = lazy(() => import('./Sweep/SweepPage').then((page) => ({ default: page.SweepPage })));
const ViewpointPage = lazy(() => import('./Access/ViewpointPage').then((page) => ({ default: page.ViewpointPage })));
const CataloguePage = lazy(() => import('./Catalogue/CataloguePage').then((page) => ({ default: page.CataloguePage })));
const LettersPage = lazy(() => import('./Letters/LettersPage').then((page) => ({ default: page.LettersPage })));

const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: (times, fault) => !(fault instanceof Refused) && times < 2 } },
});

/** The console: its routes, and what they share. */
export function App() {
  return (
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <Routes>
          <Route path="/first-owner" element={<FirstOwnerPage />} />
          <Route element={<SignedIn />}>
            <Route element={<Frame />}>
              <Route path="/gates" element={<GatesPage />} />
              <Route path="/gates/new" element={<GatePage key="new" />} />
              <Route path="/gates/:key" element={<GatePage />} />
              <Route path="/board" element={<BoardPage />} />
              <Route path="/catalogue" element={<CataloguePage />} />
              <Route path="/viewpoint" element={<ViewpointPage />} />
              <Route path="/sweep" element={<SweepPage />} />
              <Route path="/history" element={<HistoryPage />} />
              <Route path="/letters" element={<LettersPage />} />
              <Route path="/settings" element={<SettingsPage />} />
              <Route path="/" element={<Navigate to="/gates" replace />} />
              <Route path="*" element={<Nowhere />} />
            </Route>
          </Route>
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  );
}
