import { useTranslation } from 'react-i18next';
import type { Refused, Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { moved, Order } from '../frame/Order';

type Links = Schemas['FactDefinitionView']['links'];

/** Links in their order: those that a role adds to the account menu, or those at the head of pages. */
export function MenuLinks({
  links,
  refused,
  set,
  title,
  hint,
  field = 'links',
}: {
  links: Links;
  refused: Refused | undefined;
  set: (links: Links) => void;
  title: string;
  hint?: string;
  /** What the service calls them where it finds fault. */
  field?: string;
}) {
  const { t } = useTranslation();
  const put = (at: number, link: Links[number]) => set(links.map((old, n) => (n === at ? link : old)));
  return (
    <fieldset className="bare">
      <legend className="name">{title}</legend>
      {hint && <p className="hint">{hint}</p>}
      {refused?.about(field) && <p className="bad">{refused.about(field)}</p>}
      <ol className="rows">
        {links.map((link, at) => (
          <li key={at}>
            <div className="pair">
              <Field
                id={`words-${at}`}
                label={t('roles.linkWords')}
                bad={refused?.about(`${field}.${at}.words`)}
                value={link.words}
                onChange={(e) => put(at, { ...link, words: e.currentTarget.value })}
              />
              <Field
                id={`address-${at}`}
                label={t('roles.linkAddress')}
                bad={refused?.about(`${field}.${at}.address`)}
                value={link.address}
                onChange={(e) => put(at, { ...link, address: e.currentTarget.value })}
              />
            </div>
            <Order
              name={link.words || String(at + 1)}
              at={at}
              count={links.length}
              move={(to) => set(moved(links, at, to))}
              drop={() => set(links.filter((_, n) => n !== at))}
            />
          </li>
        ))}
      </ol>
      <button type="button" className="btn" onClick={() => set([...links, { address: '', words: '' }])}>
        {t('roles.addLink')}
      </button>
    </fieldset>
  );
}
