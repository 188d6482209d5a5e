import { MantineProvider } from '@mantine/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { BoardPage } from './Access/BoardPage';
import { GatePage } from './Access/GatePage';
import { GatesPage } from './Access/GatesPage';
import { HistoryPage } from './Access/HistoryPage';
import { SettingsPage } from './Access/SettingsPage';
import { SweepPage } from './Access/SweepPage';
import { ViewpointPage } from './Access/ViewpointPage';
import { Refused } from './api/client';
import { CataloguePage } from './Catalogue/CataloguePage';
import { Frame } from './frame/Frame';
import { theme } from './look/theme';
import { FirstOwnerPage } from './People/FirstOwnerPage';
import { LettersPage } from './People/LettersPage';
import { SignedIn } from './People/SignedIn';

const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: (times, fault) => !(fault instanceof Refused) && times < 2 } },
});

/** The console: its routes, and what they share. */
export function App() {
  return (
    <MantineProvider theme={theme} defaultColorScheme="auto">
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
                <Route path="*" element={<Navigate to="/gates" replace />} />
              </Route>
            </Route>
          </Routes>
        </BrowserRouter>
      </QueryClientProvider>
    </MantineProvider>
  );
}
