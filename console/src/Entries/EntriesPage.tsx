import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { useSearchParams } from 'react-router';
import { api, good, type Schemas } from '../api/client';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { TeachEntry } from './TeachEntry';

export type Rule = Schemas['EntryView'];

/** What one entry is, on pages of cards and in data: the rules, and the teacher of new ones. */
export function EntriesPage() {
  const { t } = useTranslation();
  const [params, setParams] = useSearchParams();
  const [edit, setEdit] = useState<Rule>();
  const rules = useQuery({ queryKey: ['entries'], queryFn: () => good(api.GET('/api/v1/entries')) });
  const all = rules.data?.items ?? [];
  const teaches = edit !== undefined || params.has('at');
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => setParams({ at: '' })}>
        {t('entries.add')}
      </button>
    </May>
  );
  if (teaches) {
    const close = () => {
      setEdit(undefined);
      setParams({});
    };
    return (
      <>
        <PageHead title={t(edit ? 'entries.change' : 'entries.teach')} lead={t('entries.teachLead')} />
        <TeachEntry rule={edit} address={params.get('at') ?? ''} taken={all} close={close} />
      </>
    );
  }

  return (
    <>
      <PageHead title={t('entries.title')} lead={t('entries.lead')} tools={add} />
      {rules.isPending && <Loading />}
      {rules.isError && <Failed fault={rules.error} again={() => void rules.refetch()} />}
      {rules.isSuccess && all.length === 0 && <Empty title={t('entries.empty')} lead={t('entries.emptyLead')} />}
      {all.length > 0 && (
        <ol className="redirects">
          {all.map((rule) => (
            <li key={rule.key}>
              <button type="button" className="says" onClick={() => setEdit(rule)}>
                {t('entries.says', { at: rule.at.join(', ') })} <b>{rule.isUnreadable ? t('entries.unreadable') : rule.entry}</b>
                {rule.behind && ` ${t('entries.saysBehind', { name: rule.behind })}`}
                {rule.price && ` · ${t('entries.saysPrice', { price: rule.price })}`}
                <code>{rule.key}</code>
              </button>
            </li>
          ))}
        </ol>
      )}
    </>
  );
}
