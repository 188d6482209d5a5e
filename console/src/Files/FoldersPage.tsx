import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { day } from '../frame/dates';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';
import { EditFolder } from './EditFolder';
import { OneFolder } from './OneFolder';
import { sizeOf } from './sizes';

type Area = Schemas['AreaView'];

/** Folders to download from, each behind one address that cannot be guessed, and that changes. */
export function FoldersPage() {
  const { t } = useTranslation();
  const [open, setOpen] = useState<{ key: string } | 'new'>();
  const [edit, setEdit] = useState<Area>();
  const areas = useQuery({ queryKey: ['areas'], queryFn: () => good(api.GET('/api/v1/areas')) });
  const all = areas.data?.items ?? [];
  const shown = typeof open === 'object' ? all.find((area) => area.key === open.key) : undefined;
  const add = (
    <May scope="write">
      <button type="button" className="btn prime" onClick={() => setOpen('new')}>
        {t('folders.add')}
      </button>
    </May>
  );
  return (
    <>
      <PageHead title={t('folders.title')} lead={t('folders.lead')} tools={add} />
      {areas.isPending && <Loading />}
      {areas.isError && <Failed fault={areas.error} again={() => void areas.refetch()} />}
      {areas.isSuccess && all.length === 0 && <Empty title={t('folders.empty')} lead={t('folders.emptyLead')} />}
      {all.length > 0 && <Table areas={all} open={(area) => setOpen({ key: area.key })} />}
      {open === 'new' && <EditFolder taken={all} close={() => setOpen(undefined)} done={(area) => setOpen({ key: area.key })} />}
      {edit && <EditFolder area={edit} taken={all} close={() => setEdit(undefined)} done={() => setEdit(undefined)} />}
      {shown && !edit && <OneFolder area={shown} close={() => setOpen(undefined)} edit={() => setEdit(shown)} />}
    </>
  );
}

function Table({ areas, open }: { areas: Area[]; open: (area: Area) => void }) {
  const { t } = useTranslation();
  return (
    <div className="people">
      <table>
        <thead>
          <tr>
            <th scope="col">{t('folders.name')}</th>
            <th scope="col">{t('folders.who')}</th>
            <th scope="col">{t('folders.changes')}</th>
            <th scope="col">{t('folders.files')}</th>
          </tr>
        </thead>
        <tbody>
          {areas.map((area) => (
            <tr key={area.key}>
              <td>
                <button type="button" className="link" onClick={() => open(area)}>
                  <b>{area.title}</b>
                </button>
                <br />
                <small>{area.item}</small>
              </td>
              <td>{t(area.opens === 'gate' && !area.guarded ? 'folders.everybody' : `folders.whos.${area.opens}`)}</td>
              <td>{area.until ? t('folders.next', { when: day(area.until) }) : t('folders.byHand')}</td>
              <td>
                {area.files === null
                  ? t('folders.missing')
                  : t('folders.count', { count: Number(area.files), size: sizeOf(Number(area.bytes)) })}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
