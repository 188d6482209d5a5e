import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type ChangeEvent, useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { day } from '../frame/dates';
import { Failed, Loading } from '../frame/Page';
import { useMay } from '../People/me';
import { putFile } from './putFile';
import { sizeOf } from './sizes';

type Area = Schemas['AreaView'];

/** One folder: where it is found now, and what is in it. */
export function OneFolder({ area, close, edit }: { area: Area; close: () => void; edit: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const may = useMay('write');
  const [sure, setSure] = useState(false);
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/areas/{key}', { params: { path: { key: area.key } } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      close();
    },
  });
  return (
    <Dialog title={area.title} close={close}>
      <p>{area.opens === 'gate' && !area.guarded ? t('folders.everybodyLead', { item: area.item }) : t(`folders.whoHint.${area.opens}`)}</p>
      {may && <Address area={area} />}
      <Files area={area} may={may} />
      {remove.error && (
        <p className="note" role="alert">
          {remove.error.message}
        </p>
      )}
      <div className="bar">
        {may && (
          <>
            <button
              type="button"
              className="btn danger"
              disabled={remove.isPending}
              onClick={() => (sure ? remove.mutate() : setSure(true))}
            >
              {t(sure ? 'folders.removeSure' : 'folders.remove')}
            </button>
            <button type="button" className="btn" onClick={edit}>
              {t('folders.edit')}
            </button>
          </>
        )}
        <button type="button" className="btn prime" onClick={close}>
          {t('passes.close')}
        </button>
      </div>
    </Dialog>
  );
}

function Address({ area }: { area: Area }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [copied, setCopied] = useState(false);
  const [sure, setSure] = useState(false);
  const path = { params: { path: { key: area.key } } };
  const address = useQuery({
    queryKey: ['areas', area.key, 'address', area.version],
    queryFn: () => good(api.GET('/api/v1/areas/{key}/address', path)),
  });
  const change = useMutation({
    mutationFn: () => good(api.POST('/api/v1/areas/{key}/address', path)),
    onSuccess: async () => {
      setSure(false);
      setCopied(false);
      await queries.invalidateQueries();
    },
  });
  if (address.isPending) {
    return <Loading />;
  }

  if (address.isError) {
    return <Failed fault={address.error} again={() => void address.refetch()} />;
  }

  const until = address.data.until ? t('folders.worksUntil', { when: day(address.data.until) }) : t('folders.worksOn');
  return (
    <div className="told long" aria-live="polite">
      <p>
        {t('folders.address')}: <code>{address.data.address}</code>
        <small>{until}</small>
      </p>
      {address.data.standing && (
        <p>
          {t('folders.standing')}: <code>{address.data.standing}</code>
        </p>
      )}
      <p className="pair">
        <button
          type="button"
          className="btn"
          onClick={async () => {
            await navigator.clipboard.writeText(address.data.address);
            setCopied(true);
          }}
        >
          {t(copied ? 'shared.copied' : 'folders.copy')}
        </button>
        <button type="button" className="btn" disabled={change.isPending} onClick={() => (sure ? change.mutate() : setSure(true))}>
          {t(sure ? 'folders.newAddressSure' : 'folders.newAddress')}
        </button>
      </p>
      {change.error && (
        <p className="note" role="alert">
          {change.error.message}
        </p>
      )}
    </div>
  );
}

function Files({ area, may }: { area: Area; may: boolean }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [within, setWithin] = useState('');
  const params = { path: { key: area.key }, query: within ? { within } : {} };
  const files = useQuery({
    queryKey: ['areas', area.key, 'files', within],
    queryFn: () => good(api.GET('/api/v1/areas/{key}/files', { params })),
  });
  const again = () => queries.invalidateQueries({ queryKey: ['areas'] });
  const upload = useMutation({
    mutationFn: async (chosen: File[]) => {
      for (const file of chosen) {
        await putFile(`areas/${encodeURIComponent(area.key)}`, file);
      }
    },
    onSettled: again,
  });
  const remove = useMutation({
    mutationFn: (name: string) =>
      good(
        api.DELETE('/api/v1/areas/{key}/files/{path}', { params: { path: { key: area.key, path: within ? `${within}/${name}` : name } } }),
      ),
    onSettled: again,
  });
  const choose = (e: ChangeEvent<HTMLInputElement>) => {
    upload.mutate([...(e.currentTarget.files ?? [])]);
    e.currentTarget.value = '';
  };
  const fault = upload.error ?? remove.error;
  const all = files.data?.items ?? [];
  return (
    <section aria-label={t('folders.files')}>
      <h3>
        {t('folders.files')}
        {within && (
          <>
            {' · '}
            {within}{' '}
            <button
              type="button"
              className="link"
              onClick={() => setWithin(within.includes('/') ? within.slice(0, within.lastIndexOf('/')) : '')}
            >
              {t('folders.up')}
            </button>
          </>
        )}
      </h3>
      {files.isPending && <Loading />}
      {files.isError && <Failed fault={files.error} again={() => void files.refetch()} />}
      {fault && (
        <p className="note" role="alert">
          {fault.message}
        </p>
      )}
      {files.isSuccess && all.length === 0 && <p className="hint">{t('folders.nothing')}</p>}
      <ul className="filelist">
        {all.map((file) => (
          <li key={file.name}>
            {file.bytes === null ? (
              <button type="button" className="link" onClick={() => setWithin(within ? `${within}/${file.name}` : file.name)}>
                {file.name}/
              </button>
            ) : (
              <span>{file.name}</span>
            )}
            <small>{file.bytes === null ? '' : sizeOf(Number(file.bytes))}</small>
            {may && file.bytes !== null ? (
              <button
                type="button"
                className="link"
                disabled={remove.isPending}
                aria-label={t('folders.takeWhat', { name: file.name })}
                onClick={() => remove.mutate(file.name)}
              >
                {t('folders.take')}
              </button>
            ) : (
              <span />
            )}
          </li>
        ))}
      </ul>
      {may && !within && (
        <label className="btn">
          {t(upload.isPending ? 'folders.putting' : 'folders.put')}
          <input type="file" multiple hidden onChange={choose} disabled={upload.isPending} />
        </label>
      )}
      <p className="hint">{t('folders.where', { path: area.path })}</p>
    </section>
  );
}
