import { useTranslation } from 'react-i18next';
import { Link, useLocation } from 'react-router';
import { Empty } from './Page';

/** Says that there is no such page, and leads back to one. */
export function Nowhere() {
  const { t } = useTranslation();
  const { pathname } = useLocation();
  return (
    <Empty title={t('state.nowhere')} lead={t('state.nowhereLead', { path: pathname })}>
      <Link className="btn prime" to="/gates">
        {t('state.toGates')}
      </Link>
    </Empty>
  );
}
