/** Operators: who may work at this site, and as what; what takes two; tokens for scripts. */

import { KeysReady } from '../../parts/keysReady/KeysReady.tsx';
import { useOperatorsQuery } from '../../platform/endpoints/operators.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { AddOperator } from './AddOperator.tsx';
import { Approvals } from './Approvals.tsx';
import { OperatorRow } from './OperatorRow.tsx';
import { Tokens } from './Tokens.tsx';

export function OperatorsScreen() {
  const { site, may } = useSite();
  if (!may('agree on custodians'))
    return <p className="p-6">Only an administrator of {site?.name} manages its operators.</p>;
  return (
    <div className="flex min-h-0 flex-col gap-3 p-4 px-5">
      <h1>Operators of {site?.name}</h1>
      <KeysReady />
      <Approvals />
      {may('manage operators') && <Managing />}
      {may('manage tokens') && <Tokens />}
    </div>
  );
}

function Managing() {
  const { id } = useSite();
  const { data = [], error } = useOperatorsQuery(id);
  return (
    <>
      <FailureNote failure={error} />
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,22rem)] items-start gap-3 max-lg:grid-cols-1">
        <section className="panel overflow-auto" aria-label="Operators">
          <table className="grid-table">
            <thead>
              <tr>
                <th>name</th>
                <th>sign-in</th>
                <th>roles here</th>
                <th>sites</th>
                <th>account</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {data.map((operator) => (
                <OperatorRow key={operator.id} operator={operator} />
              ))}
            </tbody>
          </table>
        </section>
        <AddOperator />
      </div>
    </>
  );
}
