import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { MarkKey, sightOf } from '../Access/Mark';
import { type Chosen, WhyPanel } from '../Access/WhyPanel';
import { api, type Board, good } from '../api/client';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { reader } from '../words/i18n';

type Row = Board['rows'][number];

/** Who can see what: rows are the item tree, columns are audiences. */
export function BoardPage() {
  const { t } = useTranslation();
  const [typed, setTyped] = useState('');
  const [date, setDate] = useState('');
  const [dating, setDating] = useState(false);
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const search = useDeferredValue(typed.trim());
  // Noon of that day where the site is: a time without an offset is meant in its zone.
  const at = date ? `${date}T12:00` : null;
  const [named, setNamed] = useState<string[]>([]);
  const board = useBoard(null, search, at, named);
  const columns = board.data?.columns ?? [];
  // The largest branch stands open, so that the board shows something of the site at once.
  const largest = board.data?.rows
    .slice(1)
    .reduce((best, row) => (row.children > (best?.children ?? 0) ? row : best), board.data.rows[1])?.item;
  return (
    <>
      <PageHead
        title={t('board.title')}
        lead={
          at
            ? t('board.leadAt', {
                date: new Date(`${date}T00:00:00Z`).toLocaleDateString(reader(), { dateStyle: 'long', timeZone: 'UTC' }),
              })
            : t('board.lead')
        }
        tools={
          <>
            <input
              className="field"
              type="search"
              placeholder={t('board.find')}
              aria-label={t('board.find')}
              value={typed}
              onChange={(e) => setTyped(e.currentTarget.value)}
            />
            {dating ? (
              <>
                <input
                  className="field"
                  type="date"
                  style={{ width: 160 }}
                  aria-label={t('board.at')}
                  value={date}
                  onChange={(e) => setDate(e.currentTarget.value)}
                />
                <button
                  type="button"
                  className="btn"
                  onClick={() => {
                    setDate('');
                    setDating(false);
                  }}
                >
                  {t('board.now')}
                </button>
              </>
            ) : (
              <button type="button" className="btn" onClick={() => setDating(true)}>
                {t('board.at')}
              </button>
            )}
            <Link className="btn prime" to="/gates/new">
              {t('gates.add')}
            </Link>
          </>
        }
      />
      {board.isPending && <Loading lines={9} />}
      {board.isError && <Failed fault={board.error} again={() => void board.refetch()} />}
      {board.data && !search && board.data.rows.length < 2 && (
        <Empty title={t('board.empty')} lead={t('board.emptyLead')}>
          <Link className="btn prime" to="/catalogue">
            {t('board.emptyGo')}
          </Link>
        </Empty>
      )}
      {board.data && (search || board.data.rows.length > 1) && (
        <div className="split">
          <div>
            <div className="boardbox">
              <table className="board">
                <thead>
                  <tr>
                    <th scope="col">{t('board.item')}</th>
                    {columns.map((column) => (
                      <th scope="col" key={column.key}>
                        {column.title}
                        {column.kind && <small>{t(`board.${column.kind}`)}</small>}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {board.data.rows.map((row, index) => (
                    <BoardRows
                      key={row.item}
                      row={row}
                      depth={!search && index > 0 ? 1 : 0}
                      columns={columns}
                      at={at}
                      named={named}
                      startsOpen={!search && row.item === largest}
                      canOpen={row.item !== 'site'}
                      chosen={chosen}
                      choose={setChosen}
                    />
                  ))}
                </tbody>
              </table>
            </div>
            {search && board.data.rows.length === 0 && <p className="key">{t('board.nothing')}</p>}
            {board.data.moreColumns > 0 && (
              <NameColumn count={board.data.moreColumns} add={(key) => setNamed([...named.filter((n) => n !== key), key])} />
            )}
            {board.data.more > 0 && <p className="key">{t('board.more', { count: board.data.more })}</p>}
            <MarkKey />
          </div>
          <WhyPanel chosen={chosen} at={at} />
        </div>
      )}
    </>
  );
}

function BoardRows(props: {
  row: Row;
  depth: number;
  columns: Board['columns'];
  at: string | null;
  named: string[];
  startsOpen: boolean;
  canOpen: boolean;
  chosen: Chosen | null;
  choose: (chosen: Chosen) => void;
}) {
  const { row, depth, columns, at, chosen, choose } = props;
  const { t } = useTranslation();
  const [open, setOpen] = useState(props.startsOpen);
  const beneath = useBoard(row.item, '', at, props.named, open && props.canOpen);
  const canOpen = props.canOpen && row.children > 0;
  return (
    <>
      <tr>
        <th scope="row" style={{ '--d': depth } as React.CSSProperties} title={row.item}>
          {canOpen ? (
            <button
              type="button"
              className="tw"
              aria-expanded={open}
              aria-label={t(open ? 'board.shut' : 'board.open', { title: row.title })}
              onClick={() => setOpen(!open)}
            >
              {open ? '▾' : '▸'}
            </button>
          ) : (
            <span className="tw" />
          )}
          {row.title}
        </th>
        {columns.map((column, index) => {
          const sight = sightOf(row.cells[index] ?? 'hidden');
          return (
            <td key={column.key}>
              <button
                type="button"
                className={`m ${sight}`}
                aria-pressed={chosen?.item === row.item && chosen.viewpoint === column.key}
                aria-label={t('board.cell', { item: row.title, who: column.title, sight: t(`sight.${sight}`) })}
                onClick={() => choose({ item: row.item, title: row.title, viewpoint: column.key, who: column.title })}
              >
                {t(`sight.${sight}`)}
              </button>
            </td>
          );
        })}
      </tr>
      {open &&
        canOpen &&
        beneath.data?.rows.map((child) => (
          <BoardRows key={`${row.item}/${child.item}`} {...props} row={child} depth={depth + 1} startsOpen={false} canOpen />
        ))}
    </>
  );
}

/** Where there are more audiences than fit: names one that is to be a column too. */
function NameColumn(props: { count: number; add: (key: string) => void }) {
  const { t } = useTranslation();
  const [key, setKey] = useState('');
  const [fault, setFault] = useState<string | null>(null);
  const look = async () => {
    try {
      await good(api.GET('/api/v1/board', { params: { query: { beneath: 'site', columns: key.trim() } } }));
      props.add(key.trim());
      setKey('');
      setFault(null);
    } catch (error) {
      setFault(error instanceof Error ? error.message : t('board.noColumn'));
    }
  };
  return (
    <form
      className="key"
      onSubmit={(e) => {
        e.preventDefault();
        void look();
      }}
    >
      <label>
        {t('board.moreColumns', { count: props.count })}{' '}
        <input
          className="field"
          placeholder="group:schools"
          value={key}
          aria-invalid={fault !== null}
          onChange={(e) => setKey(e.currentTarget.value)}
        />
      </label>{' '}
      <button type="submit" className="btn" disabled={!key.trim()}>
        {t('board.addColumn')}
      </button>
      {fault && <span role="alert"> {fault}</span>}
    </form>
  );
}

function useBoard(beneath: string | null, search: string, at: string | null, named: string[], enabled = true) {
  return useQuery({
    queryKey: ['board', beneath, search, at, named.join(',')],
    queryFn: () =>
      good(
        api.GET('/api/v1/board', {
          params: {
            query: {
              ...(beneath ? { beneath } : {}),
              ...(search ? { search } : {}),
              ...(at ? { at } : {}),
              ...(named.length ? { columns: named.join(',') } : {}),
            },
          },
        }),
      ),
    placeholderData: (old, query) => (query?.queryKey[1] === beneath ? old : undefined),
    enabled,
  });
}
