import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy } from 'react';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { Refused } from './api/client';
import { Frame } from './frame/Frame';
import { ReadOnlyUnless } from './frame/May';
import { Nowhere } from './frame/Nowhere';
import { FirstOwnerPage } from './People/FirstOwnerPage';
import { SignedIn } from './People/SignedIn';

// Each page is loaded when it is asked for: whoever signs in waits for none of them. The page of this address is on its way before we know who asks.
const pages = {
  'set-up': () => import('./SetUp/SetUpPage').then((page) => ({ default: page.SetUpPage })),
  today: () => import('./Insights/TodayPage').then((page) => ({ default: page.TodayPage })),
  board: () => import('./Gates/BoardPage').then((page) => ({ default: page.BoardPage })),
  gate: () => import('./Gates/GatePage').then((page) => ({ default: page.GatePage })),
  gates: () => import('./Gates/GatesPage').then((page) => ({ default: page.GatesPage })),
  history: () => import('./Gates/HistoryPage').then((page) => ({ default: page.HistoryPage })),
  settings: () => import('./Gates/SettingsPage').then((page) => ({ default: page.SettingsPage })),
  sweep: () => import('./Sweep/SweepPage').then((page) => ({ default: page.SweepPage })),
  viewpoint: () => import('./Access/ViewpointPage').then((page) => ({ default: page.ViewpointPage })),
  catalogue: () => import('./Catalogue/CataloguePage').then((page) => ({ default: page.CataloguePage })),
  members: () => import('./People/MembersPage').then((page) => ({ default: page.MembersPage })),
  importing: () => import('./People/ImportPage').then((page) => ({ default: page.ImportPage })),
  forms: () => import('./People/forms/FormsPage').then((page) => ({ default: page.FormsPage })),
  form: () => import('./People/forms/FormPage').then((page) => ({ default: page.FormPage })),
  terms: () => import('./People/TermsPage').then((page) => ({ default: page.TermsPage })),
  termsEditor: () => import('./People/TermsEditor').then((page) => ({ default: page.TermsEditorPage })),
  directory: () => import('./People/DirectoryPage').then((page) => ({ default: page.DirectoryPage })),
  requests: () => import('./People/RequestsPage').then((page) => ({ default: page.RequestsPage })),
  member: () => import('./People/MemberPage').then((page) => ({ default: page.MemberPage })),
  organisations: () => import('./People/OrganisationsPage').then((page) => ({ default: page.OrganisationsPage })),
  organisation: () => import('./People/OrganisationPage').then((page) => ({ default: page.OrganisationPage })),
  roles: () => import('./People/RolesPage').then((page) => ({ default: page.RolesPage })),
  role: () => import('./People/RolePage').then((page) => ({ default: page.RolePage })),
  entries: () => import('./Entries/EntriesPage').then((page) => ({ default: page.EntriesPage })),
  folders: () => import('./Files/FoldersPage').then((page) => ({ default: page.FoldersPage })),
  shows: () => import('./Audio/ShowsPage').then((page) => ({ default: page.ShowsPage })),
  show: () => import('./Audio/ShowPage').then((page) => ({ default: page.ShowPage })),
  prices: () => import('./Prices/PricesPage').then((page) => ({ default: page.PricesPage })),
  priceList: () => import('./Prices/PriceListPage').then((page) => ({ default: page.PriceListPage })),
  figures: () => import('./Orders/FiguresPage').then((page) => ({ default: page.FiguresPage })),
  delivered: () => import('./People/DeliveredPage').then((page) => ({ default: page.DeliveredPage })),
  passes: () => import('./Passwords/PassesPage').then((page) => ({ default: page.PassesPage })),
  orders: () => import('./Orders/OrdersPage').then((page) => ({ default: page.OrdersPage })),
  order: () => import('./Orders/OrderPage').then((page) => ({ default: page.OrderPage })),
  fulfilment: () => import('./Orders/FulfilmentPage').then((page) => ({ default: page.FulfilmentPage })),
  'order-sources': () => import('./Orders/SourcesPage').then((page) => ({ default: page.SourcesPage })),
  ends: () => import('./Insights/EndsPage').then((page) => ({ default: page.EndsPage })),
  redirects: () => import('./Redirects/RedirectsPage').then((page) => ({ default: page.RedirectsPage })),
  visitorPages: () => import('./Pages/PagesPage').then((page) => ({ default: page.PagesPage })),
  visitorPage: () => import('./Pages/VisitorPage').then((page) => ({ default: page.VisitorPage })),
  look: () => import('./Pages/LookPage').then((page) => ({ default: page.LookPage })),
  writePage: () => import('./Hosted/WritePage').then((page) => ({ default: page.WritePage })),
  section: () => import('./Hosted/SectionPage').then((page) => ({ default: page.SectionPage })),
  language: () => import('./Pages/LanguagePage').then((page) => ({ default: page.LanguagePage })),
  letters: () => import('./Letters/LettersPage').then((page) => ({ default: page.LettersPage })),
  words: () => import('./Letters/WordsPage').then((page) => ({ default: page.WordsPage })),
  template: () => import('./Letters/TemplatePage').then((page) => ({ default: page.TemplatePage })),
};
const [first = 'today', second, third] = window.location.pathname.split('/').filter(Boolean);
const here =
  first === 'gates' && second
    ? 'gate'
    : first === 'forms' && second
      ? 'form'
      : first === 'terms' && second
        ? 'termsEditor'
        : first === 'members' && second === 'import'
          ? 'importing'
          : first === 'members' && second
            ? 'member'
            : first === 'roles' && second
              ? 'role'
              : first === 'organisations' && second
                ? 'organisation'
                : first === 'prices' && second
                  ? 'priceList'
                  : first === 'shows' && second
                    ? 'show'
                    : first === 'orders' && second
                      ? 'order'
                      : first === 'pages'
                        ? third
                          ? second === 'written'
                            ? 'writePage'
                            : second === 'sections'
                              ? 'section'
                              : 'language'
                          : second === 'look'
                            ? 'look'
                            : second
                              ? 'visitorPage'
                              : 'visitorPages'
                        : first === 'letters' && second
                          ? third
                            ? 'template'
                            : 'words'
                          : first;
if (here in pages) {
  void pages[here as keyof typeof pages]();
}

const SetUpPage = lazy(pages['set-up']);
const TodayPage = lazy(pages.today);
const BoardPage = lazy(pages.board);
const GatePage = lazy(pages.gate);
const GatesPage = lazy(pages.gates);
const HistoryPage = lazy(pages.history);
const SettingsPage = lazy(pages.settings);
const SweepPage = lazy(pages.sweep);
const ViewpointPage = lazy(pages.viewpoint);
const CataloguePage = lazy(pages.catalogue);
const MembersPage = lazy(pages.members);
const ImportPage = lazy(pages.importing);
const FormsPage = lazy(pages.forms);
const FormPage = lazy(pages.form);
const TermsPage = lazy(pages.terms);
const TermsEditorPage = lazy(pages.termsEditor);
const DirectoryPage = lazy(pages.directory);
const RequestsPage = lazy(pages.requests);
const MemberPage = lazy(pages.member);
const OrganisationsPage = lazy(pages.organisations);
const OrganisationPage = lazy(pages.organisation);
const RolesPage = lazy(pages.roles);
const RolePage = lazy(pages.role);
const EntriesPage = lazy(pages.entries);
const OrdersPage = lazy(pages.orders);
const FoldersPage = lazy(pages.folders);
const ShowsPage = lazy(pages.shows);
const ShowPage = lazy(pages.show);
const PricesPage = lazy(pages.prices);
const PriceListPage = lazy(pages.priceList);
const FiguresPage = lazy(pages.figures);
const DeliveredPage = lazy(pages.delivered);
const PassesPage = lazy(pages.passes);
const OrderPage = lazy(pages.order);
const FulfilmentPage = lazy(pages.fulfilment);
const SourcesPage = lazy(pages['order-sources']);
const EndsPage = lazy(pages.ends);
const RedirectsPage = lazy(pages.redirects);
const PagesPage = lazy(pages.visitorPages);
const VisitorPage = lazy(pages.visitorPage);
const LanguagePage = lazy(pages.language);
const WritePage = lazy(pages.writePage);
const SectionPage = lazy(pages.section);
const LookPage = lazy(pages.look);
const LettersPage = lazy(pages.letters);
const WordsPage = lazy(pages.words);
const TemplatePage = lazy(pages.template);

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
              <Route path="/today" element={<TodayPage />} />
              <Route
                path="/set-up"
                element={
                  <ReadOnlyUnless scope="write">
                    <SetUpPage />
                  </ReadOnlyUnless>
                }
              />
              <Route path="/gates" element={<GatesPage />} />
              <Route
                path="/gates/new"
                element={
                  <ReadOnlyUnless scope="write">
                    <GatePage key="new" />
                  </ReadOnlyUnless>
                }
              />
              <Route
                path="/gates/:key"
                element={
                  <ReadOnlyUnless scope="write">
                    <GatePage />
                  </ReadOnlyUnless>
                }
              />
              <Route path="/board" element={<BoardPage />} />
              <Route path="/catalogue" element={<CataloguePage />} />
              <Route path="/viewpoint" element={<ViewpointPage />} />
              <Route
                path="/sweep"
                element={
                  <ReadOnlyUnless scope="write">
                    <SweepPage />
                  </ReadOnlyUnless>
                }
              />
              <Route path="/history" element={<HistoryPage />} />
              <Route path="/members" element={<MembersPage />} />
              <Route path="/members/import" element={<ImportPage />} />
              <Route path="/forms" element={<FormsPage />} />
              <Route path="/forms/:key" element={<FormPage />} />
              <Route path="/terms" element={<TermsPage />} />
              <Route path="/terms/:key" element={<TermsEditorPage />} />
              <Route path="/directory" element={<DirectoryPage />} />
              <Route path="/requests" element={<RequestsPage />} />
              <Route path="/members/:id" element={<MemberPage />} />
              <Route path="/organisations" element={<OrganisationsPage />} />
              <Route path="/organisations/:key" element={<OrganisationPage />} />
              <Route path="/roles" element={<RolesPage />} />
              <Route path="/roles/:kind/:key" element={<RolePage />} />
              <Route path="/folders" element={<FoldersPage />} />
              <Route path="/shows" element={<ShowsPage />} />
              <Route path="/shows/:key" element={<ShowPage />} />
              <Route path="/prices" element={<PricesPage />} />
              <Route path="/prices/:key" element={<PriceListPage />} />
              <Route path="/figures" element={<FiguresPage />} />
              <Route path="/delivered" element={<DeliveredPage />} />
              <Route path="/passes" element={<PassesPage />} />
              <Route path="/orders" element={<OrdersPage />} />
              <Route path="/fulfilment" element={<FulfilmentPage />} />
              <Route path="/order-sources" element={<SourcesPage />} />
              <Route path="/orders/:id" element={<OrderPage />} />
              <Route path="/ends" element={<EndsPage />} />
              <Route path="/redirects" element={<RedirectsPage />} />
              <Route path="/entries" element={<EntriesPage />} />
              <Route path="/pages" element={<PagesPage />} />
              <Route path="/pages/look" element={<LookPage />} />
              <Route path="/pages/written/:key" element={<WritePage />} />
              <Route path="/pages/sections/:key" element={<SectionPage />} />
              <Route path="/pages/:key" element={<VisitorPage />} />
              <Route path="/pages/languages/:language" element={<LanguagePage />} />
              <Route
                path="/letters"
                element={
                  <ReadOnlyUnless scope="write">
                    <LettersPage />
                  </ReadOnlyUnless>
                }
              />
              <Route path="/letters/words" element={<WordsPage />} />
              <Route path="/letters/words/:kind" element={<TemplatePage />} />
              <Route
                path="/settings"
                element={
                  <ReadOnlyUnless scope="write">
                    <SettingsPage />
                  </ReadOnlyUnless>
                }
              />
              <Route path="/" element={<Navigate to="/today" replace />} />
              <Route path="*" element={<Nowhere />} />
            </Route>
          </Route>
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  );
}
