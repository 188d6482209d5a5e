import { useQuery } from '@tanstack/react-query';
import { useTranslation } from 'react-i18next';
import { Link } from 'react-router';
import { api, type Gate, good } from '../api/client';
import { May } from '../frame/May';
import { Empty, Failed, Loading, PageHead } from '../frame/Page';

/** All gates, each as its sentence. */
export function GatesPage() {
  const { t } = useTranslation();
  const gates = useQuery({ queryKey: ['gates'], queryFn: () => good(api.GET('/api/v1/gates', { params: { query: { limit: 1000 } } })) });
  return (
    <>
      <PageHead
        title={t('gates.title')}
        lead={t('gates.lead')}
        tools={
          <May scope="write">
            <Link className="btn prime" to="/gates/new">
              {t('gates.add')}
            </Link>
          </May>
        }
      />
      {gates.isPending && <Loading />}
      {gates.isError && <Failed fault={gates.error} again={() => void gates.refetch()} />}
      {gates.data?.items.length === 0 && (
        <Empty title={t('gates.empty')} lead={t('gates.emptyLead')}>
          <May scope="write">
            <Link className="btn prime" to="/gates/new">
              {t('gates.emptyGo')}
            </Link>
          </May>
        </Empty>
      )}
      {gates.data && gates.data.items.length > 0 && (
        <ul className="gates">
          {gates.data.items.map((gate) => (
            <li key={gate.key}>
              <Link to={`/gates/${gate.key}`}>
                <span>
                  <b>{gate.title}</b>
                  <code>{gate.key}</code>
                </span>
                <span className="says">
                  {gate.parts.map((part, at) => (part.edits ? <u key={at}>{part.text}</u> : <span key={at}>{part.text}</span>))}
                </span>
                <GateState gate={gate} />
              </Link>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** Whether a gate counts now. */
export function GateState({ gate }: { gate: Gate }) {
  const { t } = useTranslation();
  if (gate.unreadable) {
    return <span className="state broken">{t('state.unreadable')}</span>;
  }

  if (!gate.inForce) {
    return <span className="state off">{t(gate.enabled ? 'state.dated' : 'state.off')}</span>;
  }

  return gate.kind === 'exemption' ? (
    <span className="state exempt">{t('state.exemption')}</span>
  ) : (
    <span className="state">{t('state.on')}</span>
  );
}
