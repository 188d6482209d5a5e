import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useTranslation } from 'react-i18next';
import { api, good, Refused, type Schemas } from '../api/client';
import { Dialog } from '../frame/Dialog';
import { DialogBar } from '../frame/DialogBar';
import { Field } from '../frame/Field';
import { Tick } from '../Gates/Blank';

type Pass = Schemas['PassView'];
const said = (text: string) => text.trim() || null;
const number = (text: string) => (text.trim() ? Number(text) : null);

/** Makes a pass, or changes whose one is, its dates and its bounds. */
export function EditPass({
  pass,
  kinds,
  close,
  done,
}: {
  pass?: Pass;
  kinds: Schemas['FactDefinitionView'][];
  close: () => void;
  done?: (made: Pass) => void;
}) {
  const { t } = useTranslation();
  const queries = useQueryClient();
  const [draft, setDraft] = useState({
    kind: pass?.kind ?? kinds[0]?.key ?? '',
    holder: pass?.holder ?? '',
    name: '',
    email: pass?.email ?? '',
    from: pass?.fromText ?? '',
    until: pass?.untilText ?? '',
    mostUses: pass?.mostUses?.toString() ?? '',
    mostNetworks: pass?.mostNetworks?.toString() ?? '',
    send: false,
  });
  const set = (change: Partial<typeof draft>) => setDraft({ ...draft, ...change });
  const save = useMutation({
    mutationFn: () => {
      const body: Schemas['PassDraft'] = {
        kind: draft.kind,
        holder: draft.holder,
        name: said(draft.name),
        email: said(draft.email),
        from: said(draft.from),
        until: said(draft.until),
        mostUses: number(draft.mostUses),
        mostNetworks: number(draft.mostNetworks),
        send: draft.send && !!said(draft.email),
      };
      return good(
        pass
          ? api.PUT('/api/v1/passes/{id}', { params: { path: { id: pass.id } }, headers: { 'If-Match': `"${pass.version}"` }, body })
          : api.POST('/api/v1/passes', { body }),
      );
    },
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ['passes'] });
      close();
      done?.(made);
    },
  });
  const refused = save.error instanceof Refused ? save.error : undefined;
  const kindOf = (at: string) => (at.includes('T') || at.includes(' ') ? 'text' : 'date');
  return (
    <Dialog title={t(pass ? 'passes.change' : 'passes.add')} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        {save.isError && !refused?.faults.length && (
          <p className="note" role="alert">
            {save.error.message}
          </p>
        )}
        <Field
          id="pass-holder"
          label={t('passes.holder')}
          hint={t('passes.holderHint')}
          required
          bad={refused?.about('holder')}
          value={draft.holder}
          onChange={(e) => set({ holder: e.currentTarget.value })}
        />
        <Field
          as="select"
          id="pass-kind"
          label={t('passes.kind')}
          bad={refused?.about('kind')}
          value={draft.kind}
          onChange={(e) => set({ kind: e.currentTarget.value })}
        >
          {kinds.map((one) => (
            <option key={one.key} value={one.key}>
              {one.title}
            </option>
          ))}
        </Field>
        <Field
          id="pass-email"
          label={t('passes.email')}
          type="email"
          bad={refused?.about('email')}
          value={draft.email}
          onChange={(e) => set({ email: e.currentTarget.value })}
        />
        {!pass && draft.email.trim() && <Tick words={t('passes.send')} on={draft.send} set={(send) => set({ send })} />}
        {!pass && (
          <Field
            id="pass-name"
            label={t('passes.name')}
            hint={t('passes.nameHint')}
            bad={refused?.about('name')}
            value={draft.name}
            onChange={(e) => set({ name: e.currentTarget.value })}
          />
        )}
        <div className="pair">
          <Field
            id="pass-from"
            label={t('passes.from')}
            type={kindOf(draft.from)}
            bad={refused?.about('from')}
            value={draft.from}
            onChange={(e) => set({ from: e.currentTarget.value })}
          />
          <Field
            id="pass-until"
            label={t('passes.until')}
            type={kindOf(draft.until)}
            bad={refused?.about('until')}
            value={draft.until}
            onChange={(e) => set({ until: e.currentTarget.value })}
          />
        </div>
        <div className="pair">
          <Field
            id="pass-uses"
            label={t('passes.mostUses')}
            type="number"
            placeholder={t('passes.any')}
            bad={refused?.about('mostUses')}
            value={draft.mostUses}
            onChange={(e) => set({ mostUses: e.currentTarget.value })}
          />
          <Field
            id="pass-networks"
            label={t('passes.mostNetworks')}
            type="number"
            placeholder={t('passes.any')}
            bad={refused?.about('mostNetworks')}
            value={draft.mostNetworks}
            onChange={(e) => set({ mostNetworks: e.currentTarget.value })}
          />
        </div>
        <DialogBar go={t(pass ? 'roles.save' : 'passes.make')} disabled={save.isPending} close={close} />
      </form>
    </Dialog>
  );
}
