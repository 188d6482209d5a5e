import { useTranslation } from 'react-i18next';
import type { Refused, Schemas } from '../api/client';
import { Field } from '../frame/Field';
import { moved, Order } from '../frame/Order';

type Links = Schemas['FactDefinitionView']['links'];

/** The links that a role adds to the account menu, in their order. */
export function MenuLinks({ links, refused, set }: { links: Links; refused: Refused | undefined; set: (links: Links) => void }) {
  const { t } = useTranslation();
  const put = (at: number, link: Links[number]) => set(links.map((old, n) => (n === at ? link : old)));
  return (
    <fieldset className="bare">
      <legend className="name">{t('roles.links')}</legend>
      <p className="hint">{t('roles.linksHint')}</p>
      {refused?.about('links') && <p className="bad">{refused.about('links')}</p>}
      <ol className="rows">
        {links.map((link, at) => (
          <li key={at}>
            <div className="pair">
              <Field
                id={`words-${at}`}
                label={t('roles.linkWords')}
                bad={refused?.about(`links.${at}.words`)}
                value={link.words}
                onChange={(e) => put(at, { ...link, words: e.currentTarget.value })}
              />
              <Field
                id={`address-${at}`}
                label={t('roles.linkAddress')}
                bad={refused?.about(`links.${at}.address`)}
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
