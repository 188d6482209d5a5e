import { CartesianGrid, Legend, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';

const dashes = ['0', '6 3', '2 3', '9 3 2 3', '1 4', '12 4'];

/** Curves of numbers over time: told apart by their dashes as well as by their colours. */
export function Curves({ names, rows }: { names: string[]; rows: { fact: string; title: string; counts: number[] }[] }) {
  const points = names.map((name, at) => ({ name, ...Object.fromEntries(rows.map((row) => [row.fact, row.counts[at] ?? 0])) }));
  return (
    <div className="curves" aria-hidden="true">
      <ResponsiveContainer width="100%" height="100%">
        <LineChart accessibilityLayer={false} data={points} margin={{ top: 8, right: 12, bottom: 0, left: -18 }}>
          <CartesianGrid stroke="var(--hair)" vertical={false} />
          <XAxis dataKey="name" tick={{ fill: 'var(--soft)', fontSize: 12 }} stroke="var(--line)" />
          <YAxis allowDecimals={false} tick={{ fill: 'var(--soft)', fontSize: 12 }} stroke="var(--line)" />
          <Tooltip contentStyle={{ background: 'var(--sheet)', border: '1px solid var(--line)', borderRadius: 8 }} />
          <Legend />
          {rows.map((row, n) => (
            <Line
              key={row.fact}
              dataKey={row.fact}
              name={row.title}
              stroke={n === 0 ? 'var(--ink)' : n % 2 ? 'var(--amber)' : 'var(--green)'}
              strokeDasharray={dashes[n % dashes.length] ?? '0'}
              strokeWidth={n === 0 ? 2.4 : 1.8}
              dot={false}
              isAnimationActive={false}
            />
          ))}
        </LineChart>
      </ResponsiveContainer>
    </div>
  );
}
