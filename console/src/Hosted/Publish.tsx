import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { useNavigate } from 'react-router';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { about, Fault } from './WrittenPages';

type Page = Schemas['HostedPageView'];
type Asking = 'publish' | 'copy' | 'place';

/** What is done with a page as a whole. */
export function Publish({
  page,
  unsaved,
  save,
  hasDraft,
}: {
  page: Page;
  unsaved: boolean;
  save: () => Promise<unknown>;
  hasDraft: boolean;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [asking, ask] = useState<Asking>();
  const params = { params: { path: { key: page.key } } };
  const unpublish = useMutation({
    mutationFn: () => good(api.POST('/api/v1/pages/{key}/unpublish', params)),
    onSuccess: () => queries.invalidateQueries(),
  });
  const remove = useMutation({
    mutationFn: () => good(api.DELETE('/api/v1/pages/{key}', params)),
    onSuccess: async () => {
      void navigate('/pages');
      await queries.invalidateQueries();
    },
    onError: (fault) => window.alert(fault.message),
  });
  const doing: Record<string, () => void> = {
    place: () => ask('place'),
    copy: () => ask('copy'),
    unpublish: () => unpublish.mutate(),
    remove: () => window.confirm(t('written.removeSure', { title: page.title })) && remove.mutate(),
  };
  return (
    <>
      <select className="field" aria-label={t('written.more')} value="" onChange={(e) => doing[e.currentTarget.value]?.()}>
        <option value="">{t('written.more')}</option>
        <option value="place">{t('written.place')}</option>
        <option value="copy">{t('written.copy')}</option>
        {page.state !== 'draft' && <option value="unpublish">{t('written.unpublish')}</option>}
        <option value="remove">{t('written.removePage')}</option>
      </select>
      <button type="button" className="btn prime" disabled={!unsaved && !hasDraft} onClick={() => ask('publish')}>
        {t('written.publish')}
      </button>
      {asking === 'publish' && <PublishDialog page={page.key} unsaved={unsaved} save={save} close={() => ask(undefined)} />}
      {asking === 'copy' && <CopyDialog page={page} close={() => ask(undefined)} />}
      {asking === 'place' && <PlaceDialog page={page} close={() => ask(undefined)} />}
    </>
  );
}

function PublishDialog({
  page,
  unsaved,
  save,
  close,
}: {
  page: string;
  unsaved: boolean;
  save: () => Promise<unknown>;
  close: () => void;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [at, setAt] = useState('');
  const publish = useMutation({
    mutationFn: async () => {
      if (unsaved) {
        await save();
      }

      return good(
        api.POST('/api/v1/pages/{key}/publish', {
          params: { path: { key: page } },
          body: { at: at ? new Date(at).toISOString() : null },
        }),
      );
    },
    onSuccess: async () => {
      close();
      await queries.invalidateQueries();
    },
  });
  return (
    <Dialog title={t('written.publish')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          publish.mutate();
        }}
      >
        <Fault error={publish.error} />
        {publish.error instanceof Refused &&
          publish.error.faults
            .filter((fault) => fault.field !== 'at')
            .map((fault) => (
              <p className="bad" key={fault.message} role="alert">
                {fault.message}
              </p>
            ))}
        <Field
          id="publish-at"
          type="datetime-local"
          label={t('written.from')}
          hint={t('written.fromHint')}
          bad={about(publish.error, 'at')}
          value={at}
          onChange={(e) => setAt(e.currentTarget.value)}
        />
        <DialogBar go={t(at ? 'written.publishLater' : 'written.publishNow')} disabled={publish.isPending} close={close} />
      </form>
    </Dialog>
  );
}

function CopyDialog({ page, close }: { page: Page; close: () => void }) {
  const { t } = useTranslation();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [title, setTitle] = useState(page.title);
  const copy = useMutation({
    mutationFn: () => good(api.POST('/api/v1/pages', { body: { section: page.section, title, copyOf: page.key } })),
    onSuccess: async (made) => {
      close();
      await queries.invalidateQueries();
      void navigate(`/pages/written/${made.key}`);
    },
  });
  return (
    <Dialog title={t('written.copy')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          copy.mutate();
        }}
      >
        <Fault error={copy.error} />
        <Field
          id="copy-title"
          label={t('written.pageTitle')}
          required
          maxLength={300}
          bad={about(copy.error, 'title', 'key', 'address')}
          value={title}
          onChange={(e) => setTitle(e.currentTarget.value)}
        />
        <DialogBar go={t('written.makePage')} disabled={copy.isPending} close={close} />
      </form>
    </Dialog>
  );
}

function PlaceDialog({ page, close }: { page: Page; close: () => void }) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({ address: page.address ?? '', position: String(page.position) });
  const save = useMutation({
    mutationFn: () =>
      good(
        api.PUT('/api/v1/pages/{key}', {
          params: { path: { key: page.key } },
          headers: { 'If-Match': `"${page.version}"` },
          body: { address: draft.address, position: Number(draft.position) },
        }),
      ),
    onSuccess: async () => {
      close();
      await queries.invalidateQueries();
    },
  });
  return (
    <Dialog title={t('written.place')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <Fault error={save.error} />
        <Field
          id="place-address"
          label={t('written.address')}
          required
          bad={about(save.error, 'address')}
          value={draft.address}
          onChange={(e) => setDraft({ ...draft, address: e.currentTarget.value })}
        />
        <Field
          id="place-position"
          type="number"
          label={t('written.position')}
          hint={t('written.positionHint')}
          value={draft.position}
          onChange={(e) => setDraft({ ...draft, position: e.currentTarget.value })}
        />
        <DialogBar go={t('written.savePlace')} disabled={save.isPending} close={close} />
      </form>
    </Dialog>
  );
}
