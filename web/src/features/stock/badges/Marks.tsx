/** The marks of organisations: chosen, made small on screen, kept as PNG. */
import { MOST_MARK } from '@rawbits/api';
import { useState } from 'react';
import { useMarksQuery, useSetMarkMutation } from '../../../platform/endpoints/people.ts';
import { FailureNote, type Told } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

/** As large as it is kept, in pixels: 26 mm at 300 dots an inch. */
const MOST_PX = { width: 320, height: 120 };
const NO_PICTURE: Told = { message: 'This is no picture that can be read.', hint: 'Choose a PNG, JPEG, SVG or WebP.' };
const TOO_MUCH: Told = {
  message: 'This picture stays too large, however small it is drawn.',
  hint: 'Take one with fewer colours: a mark, not a photograph.',
};

export function Marks({ organisations }: { organisations: readonly string[] }) {
  const { id: site, site: known, may } = useSite();
  const name = known?.name ?? '';
  const { data } = useMarksQuery(site);
  const marks = data ?? [];
  const [set, { error, isLoading }] = useSetMarkMutation();
  const [organisation, setOrganisation] = useState('');
  const [failure, setFailure] = useState<Told>();
  const choose = async (file: File | undefined) => {
    if (!file) return;
    setFailure(undefined);
    const data = await asMark(file).catch(() => undefined);
    if (data === undefined) setFailure(NO_PICTURE);
    else if (data.length > MOST_MARK) setFailure(TOO_MUCH);
    else await set({ site, mark: { organisation, data } });
  };
  return (
    <details className="border-t border-faint pt-2">
      <summary className="cursor-pointer font-bold">Marks of organisations</summary>
      <ul className="flex flex-col gap-2 py-2" aria-label="Marks">
        {marks.map((mark) => (
          <li key={mark.organisation} className="flex items-center gap-3">
            <img src={`data:image/png;base64,${mark.data}`} alt="" className="max-h-8 max-w-24 bg-white" />
            <span className="grow">{mark.organisation || `${name}, and all without one`}</span>
            {may('keep cards') && (
              <button
                type="button"
                className="switch-link underline"
                disabled={isLoading}
                onClick={() => void set({ site, mark: { organisation: mark.organisation, data: null } })}
              >
                take away
              </button>
            )}
          </li>
        ))}
        {data?.length === 0 && <li className="text-ink-2">None yet: badges bear the organisation’s name only.</li>}
      </ul>
      {may('keep cards') && (
        <div className="flex flex-wrap items-end gap-3">
          <Field label="Mark of" className="min-w-40 grow">
            {(props) => (
              <>
                <input
                  {...props}
                  value={organisation}
                  onChange={(event) => setOrganisation(event.target.value)}
                  list="organisations-of-badges"
                  placeholder={name}
                  maxLength={120}
                  className="input w-full"
                />
                <datalist id="organisations-of-badges">
                  {organisations.map((one) => (
                    <option key={one} value={one} />
                  ))}
                </datalist>
              </>
            )}
          </Field>
          <label className="btn btn-line">
            Choose a picture
            <input
              type="file"
              accept="image/*"
              className="sr-only"
              disabled={isLoading}
              onChange={({ target }) => {
                void choose(target.files?.[0]);
                target.value = '';
              }}
            />
          </label>
        </div>
      )}
      <FailureNote failure={failure ?? error} />
    </details>
  );
}

/** A picture as a PNG in base64, no larger than it is kept; what was clear stays clear. */
async function asMark(file: File): Promise<string> {
  const picture = await createImageBitmap(file);
  const scale = Math.min(1, MOST_PX.width / picture.width, MOST_PX.height / picture.height);
  const canvas = document.createElement('canvas');
  canvas.width = Math.max(1, Math.round(picture.width * scale));
  canvas.height = Math.max(1, Math.round(picture.height * scale));
  canvas.getContext('2d')!.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return canvas.toDataURL('image/png').replace(/^[^,]*,/, '');
}
