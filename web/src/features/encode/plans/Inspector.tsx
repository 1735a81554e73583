/** What is chosen in a plan, to be looked at and changed: the card itself, an application, or a file. */
import type { Chosen } from '../../../parts/floorPlan/FloorPlan.tsx';
import { ApplicationForm } from './ApplicationForm.tsx';
import { ChipForm } from './ChipForm.tsx';
import { type Edit, type FilesPlan, fileOfKind, freeNumber, newApplication } from './edit.ts';
import { FileForm } from './FileForm.tsx';

interface Props {
  plan: FilesPlan;
  chosen: Chosen;
  onChoose: (chosen: Chosen) => void;
  edit: Edit | undefined;
  names: readonly string[];
}

export function Inspector({ plan, chosen, onChoose, edit, names }: Props) {
  const index = plan.applications.findIndex(({ id }) => id === chosen?.application);
  const application = plan.applications[index];
  const file = application?.files.find(({ number }) => number === chosen?.file);
  const addApplication = () => {
    const next = newApplication(plan);
    edit?.((draft) => void draft.applications.push(next));
    onChoose({ application: next.id });
  };
  const addFile = () => {
    const next = fileOfKind('standard', freeNumber(application!));
    edit?.((draft) => void draft.applications[index]!.files.push(next));
    onChoose({ application: application!.id, file: next.number });
  };
  return (
    <section className="panel p-3" aria-label="Chosen in the plan">
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 pb-2">
        <button type="button" className="switch-link" aria-pressed={!application} onClick={() => onChoose(undefined)}>
          The card
        </button>
        {application && (
          <button
            type="button"
            className="switch-link"
            aria-pressed={!file}
            onClick={() => onChoose({ application: application.id })}
          >
            {application.name || 'Application'} <span className="font-mono">{application.id}</span>
          </button>
        )}
        {file && (
          <button type="button" className="switch-link" aria-pressed onClick={() => onChoose(chosen)}>
            File {file.number} {file.name}
          </button>
        )}
        {edit && (
          <span className="ml-auto flex flex-wrap gap-2">
            <button type="button" className="btn btn-line btn-small" onClick={addApplication}>
              New application
            </button>
            {application && (
              <button type="button" className="btn btn-line btn-small" onClick={addFile}>
                New file
              </button>
            )}
          </span>
        )}
      </div>
      <fieldset disabled={!edit} className="min-w-0">
        {!application && <ChipForm plan={plan} edit={edit ?? (() => {})} names={names} />}
        {application && !file && (
          <ApplicationForm
            key={index}
            plan={plan}
            index={index}
            edit={edit ?? (() => {})}
            names={names}
            onChoose={onChoose}
          />
        )}
        {application && file && (
          <FileForm
            key={`${index} ${application.files.indexOf(file)}`}
            plan={plan}
            application={index}
            number={file.number}
            edit={edit ?? (() => {})}
            onChoose={onChoose}
          />
        )}
      </fieldset>
    </section>
  );
}
