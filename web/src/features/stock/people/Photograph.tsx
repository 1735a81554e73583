/** The photograph of a cardholder: shown, and a new one cut to its frame on screen. */
import type { OneCardholder } from '@rawbits/api';
import { useEffect, useRef, useState } from 'react';
import { usePhotographQuery, useSetPhotographMutation } from '../../../platform/endpoints/people.ts';
import { FailureNote, type Told } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { FRAME, type Look, partOf } from './crop.ts';

const MIDDLE: Look = { near: 1, x: 0.5, y: 0.3 };
const NO_PICTURE: Told = { message: 'This is no picture that can be read.', hint: 'Choose a JPEG, PNG or WebP.' };

export function Photograph({ person }: { person: OneCardholder }) {
  const { id: site, may } = useSite();
  const params = { site, id: person.id };
  const { currentData } = usePhotographQuery(params, { skip: !person.hasPhotograph });
  const [picture, setPicture] = useState<ImageBitmap>();
  const [failure, setFailure] = useState<Told>();
  const [set, { error, isLoading }] = useSetPhotographMutation();
  const choose = async (file: File | undefined) => {
    if (!file) return;
    setFailure(undefined);
    try {
      setPicture(await createImageBitmap(file));
    } catch {
      setFailure(NO_PICTURE);
    }
  };
  return (
    <div className={`flex shrink-0 flex-col gap-1 ${picture || person.hasPhotograph ? 'w-36' : 'w-24'}`}>
      {picture ? (
        <Cut
          picture={picture}
          busy={isLoading}
          onCut={async (data) => {
            if ('data' in (await set({ ...params, photograph: { type: 'image/jpeg', data } }))) setPicture(undefined);
          }}
          onCancel={() => setPicture(undefined)}
        />
      ) : (
        <>
          {person.hasPhotograph && currentData ? (
            <img
              src={`data:${currentData.type};base64,${currentData.data}`}
              alt={person.name}
              width={135}
              height={180}
              className="border border-base-300"
            />
          ) : (
            <p className="flex h-[120px] w-[90px] items-center justify-center border border-dashed border-base-300 text-center text-ink-2">
              no photograph
            </p>
          )}
          {may('keep cards') && (
            <label className="switch-link underline">
              {person.hasPhotograph ? 'another one' : 'choose one'}
              <input
                type="file"
                accept="image/*"
                className="sr-only"
                onChange={({ target }) => {
                  void choose(target.files?.[0]);
                  target.value = '';
                }}
              />
            </label>
          )}
          {may('keep cards') && person.hasPhotograph && (
            <button
              type="button"
              className="switch-link self-start underline"
              disabled={isLoading}
              onClick={() => void set({ ...params, photograph: null })}
            >
              take away
            </button>
          )}
        </>
      )}
      <FailureNote failure={failure ?? error} />
    </div>
  );
}

interface CutProps {
  picture: ImageBitmap;
  busy: boolean;
  onCut: (base64: string) => void;
  onCancel: () => void;
}

function Cut({ picture, busy, onCut, onCancel }: CutProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [look, setLook] = useState(MIDDLE);
  useEffect(() => {
    const { left, top, width, height } = partOf(picture, FRAME, look);
    canvas.current?.getContext('2d')?.drawImage(picture, left, top, width, height, 0, 0, FRAME.width, FRAME.height);
  }, [picture, look]);
  const slider = (name: keyof Look, words: string, most: number) => (
    <label className="block text-[0.9rem] text-ink-2">
      {words}
      <input
        type="range"
        className="range range-xs w-full"
        min={name === 'near' ? 1 : 0}
        max={most}
        step={0.01}
        value={look[name]}
        onChange={({ target: { value } }) => setLook({ ...look, [name]: Number(value) })}
      />
    </label>
  );
  return (
    <>
      <canvas
        ref={canvas}
        width={FRAME.width}
        height={FRAME.height}
        className="h-[180px] w-[135px] border border-base-300"
        aria-label="The photograph as it will be kept"
        role="img"
      />
      {slider('near', 'nearer', 5)}
      {slider('x', 'left and right', 1)}
      {slider('y', 'up and down', 1)}
      <span className="flex gap-2">
        <button
          type="button"
          className="btn btn-primary btn-small"
          disabled={busy}
          onClick={() => onCut(canvas.current!.toDataURL('image/jpeg', 0.82).replace(/^[^,]*,/, ''))}
        >
          Keep
        </button>
        <button type="button" className="btn btn-line btn-small" onClick={onCancel}>
          Cancel
        </button>
      </span>
    </>
  );
}
