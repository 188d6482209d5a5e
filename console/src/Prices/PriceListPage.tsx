import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { Link, useNavigate, useParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { useMay } from '../People/me';
import { EditLine } from './EditLine';
import { EditList } from './EditList';
import { ImportPrices } from './ImportPrices';
import { span } from './span';

type Line = Schemas['PriceLine'];
const mostShown = 200;

/** One price list with its lines. */
export function PriceListPage() {
  const { t } = useTranslation();
  const { key = '' } = useParams();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const may = useMay('write');
  const [edit, setEdit] = useState<'head' | 'file' | { line: Line | undefined }>();
  const [find, setFind] = useState('');
  const [sure, setSure] = useState(false);
  const path = { params: { path: { key } } };
  const list = useQuery({ queryKey: ['prices', key], queryFn: () => good(api.GET('/api/v1/prices/{key}', path)) });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/prices/{key}', path)),
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate('/prices');
    },
  });
  if (list.isPending) {
    return <Loading />;
  }

  if (list.isError) {
    return <Failed fault={list.error} again={() => void list.refetch()} />;
  }

  const lines = list.data.lines ?? [];
  const found = lines.filter((line) => line.item?.includes(find.trim().toLowerCase()));
  const who = list.data.audience === 'anyone' ? t('prices.all') : list.data.audience;
  return (
    <>
      <PageHead
        kicker={<Link to="/prices">{t('prices.title')}</Link>}
        title={list.data.title}
        lead={t('prices.oneLead', { who, currency: list.data.currency, span: span(t, list.data) })}
        tools={
          <May scope="write">
            <button type="button" className="btn prime" onClick={() => setEdit({ line: undefined })}>
              {t('prices.line.add')}
            </button>
            <button type="button" className="btn" onClick={() => setEdit('head')}>
              {t('prices.edit')}
            </button>
          </May>
        }
      />
      <p className="seek">
        <input
          type="search"
          className="field"
          aria-label={t('prices.find')}
          placeholder={t('prices.find')}
          value={find}
          onChange={(e) => setFind(e.currentTarget.value)}
        />
        <a className="btn" href={`/api/v1/prices/${encodeURIComponent(key)}/lines.csv`} download>
          {t('prices.csv')}
        </a>
        {may && (
          <button type="button" className="btn" onClick={() => setEdit('file')}>
            {t('prices.file.open')}
          </button>
        )}
      </p>
      {lines.length === 0 && <Empty title={t('prices.noLines')} lead={t('prices.noLinesLead')} />}
      {lines.length > 0 && (
        <div className="people">
          <table>
            <thead>
              <tr>
                <th scope="col">{t('prices.line.item')}</th>
                <th scope="col">{t('prices.line.quantity')}</th>
                <th scope="col">{t('prices.line.price')}</th>
              </tr>
            </thead>
            <tbody>
              {found.slice(0, mostShown).map((line) => (
                <tr key={`${line.item} ${line.quantity}`}>
                  <th scope="row">
                    {may ? (
                      <button type="button" className="link" onClick={() => setEdit({ line })}>
                        {line.item}
                      </button>
                    ) : (
                      line.item
                    )}
                  </th>
                  <td data-name={t('prices.line.quantity')}>{t('prices.line.fromMany', { count: Number(line.quantity ?? 1) })}</td>
                  <td data-name={t('prices.line.price')}>
                    {line.price ? `${line.price} ${list.data.currency}` : t('prices.line.offUsual', { off: line.off })}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {lines.length > 0 && (
        <p className="soft" aria-live="polite">
          {t('prices.shown', { count: Math.min(found.length, mostShown), all: lines.length })}
        </p>
      )}
      <May scope="write">
        {remove.error && (
          <p className="note" role="alert">
            {remove.error.message}
          </p>
        )}
        <button type="button" className="btn danger" disabled={remove.isPending} onClick={() => (sure ? remove.mutate() : setSure(true))}>
          {t(sure ? 'prices.removeSure' : 'prices.remove')}
        </button>
      </May>
      {edit === 'head' && <EditList list={list.data} taken={[]} close={() => setEdit(undefined)} done={() => setEdit(undefined)} />}
      {edit === 'file' && <ImportPrices of={list.data.key} close={() => setEdit(undefined)} />}
      {typeof edit === 'object' && <EditLine list={list.data} line={edit.line} close={() => setEdit(undefined)} />}
    </>
  );
}
