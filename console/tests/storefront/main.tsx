// A shop as many are built today: one page, routes in the browser's history, data by JSON. What guards it knows nothing of it.
import { QueryClient, QueryClientProvider, useQuery } from '@tanstack/react-query';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Link, Route, Routes, useParams } from 'react-router';

type Product = { sku: string; title: string; price: string };

async function get<T>(address: string): Promise<T> {
  const answer = await fetch(address);
  if (!answer.ok) {
    const problem = answer.headers.get('content-type')?.includes('json')
      ? ((await answer.json()) as { detail: string; signIn?: string })
      : null;
    throw new Error(`${answer.status}: ${problem?.detail ?? 'no word why'}`);
  }

  return (await answer.json()) as T;
}

function Shelf() {
  const shelf = useQuery({ queryKey: ['shelf'], queryFn: () => get<Product[]>('/api/lamps') });
  return (
    <main>
      <h1>Lamps</h1>
      <ul>
        {shelf.data?.map((lamp) => (
          <li key={lamp.sku}>
            <Link to={`/lamp/${lamp.sku}`}>{lamp.title}</Link> {lamp.price}
          </li>
        ))}
      </ul>
      <Link to="/lamp/searchlight">The lamp of the month</Link>
    </main>
  );
}

function Lamp() {
  const { sku } = useParams();
  const lamp = useQuery({ queryKey: ['lamp', sku], queryFn: () => get<Product>(`/api/lamps/${sku}`), retry: false });
  return (
    <main>
      <h1>{lamp.data?.title ?? 'Not shown'}</h1>
      {lamp.isError && <p role="alert">{lamp.error.message}</p>}
      <Link to="/">All lamps</Link>
    </main>
  );
}

createRoot(document.querySelector('#root') as Element).render(
  <QueryClientProvider client={new QueryClient()}>
    <BrowserRouter>
      <Routes>
        <Route path="/" element={<Shelf />} />
        <Route path="/lamp/:sku" element={<Lamp />} />
      </Routes>
    </BrowserRouter>
  </QueryClientProvider>,
);
