/** Playing a file of commands that was kept. */
import { type KeptExchange, keptExchangeSchema } from '@rawbits/api';
import { useState } from 'react';
import { usePlayExchangeMutation } from '../../../platform/endpoints/runs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { PlayedAgain } from './PlayedAgain.tsx';

/** The file's contents, or what is wrong with them. */
export function keptFrom(text: string): { kept: KeptExchange } | { problem: string } {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    return { problem: 'This is no JSON: it is cut, or another file.' };
  }
  const read = keptExchangeSchema.safeParse(json);
  if (read.success) return { kept: read.data };
  const [issue] = read.error.issues;
  const where = issue?.path.join('.');
  return { problem: `${where ? `${where}: ` : ''}${issue?.message ?? 'It is not as Raw Bits writes it.'}` };
}

export function PlayFile() {
  const { id: site } = useSite();
  const [file, setFile] = useState<ReturnType<typeof keptFrom>>();
  const [play, { data, error, isLoading }] = usePlayExchangeMutation();
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    const read = keptFrom(await chosen.text());
    setFile(read);
    if ('kept' in read) void play({ params: { site }, body: read.kept });
  };
  return (
    <details className="border-t border-faint pt-2">
      <summary className="cursor-pointer">Play a kept file …</summary>
      <label className="mt-1 grid gap-1">
        <span className="field-label">Commands of a card, as they were kept</span>
        <input
          type="file"
          className="w-full"
          accept="application/json,.json"
          onChange={(event) => void take(event.target.files?.[0])}
        />
      </label>
      {isLoading && <p>Playing …</p>}
      {file && 'problem' in file && <p className="text-signal">{file.problem}</p>}
      {file && 'kept' in file && !isLoading && (
        <>
          <FailureNote failure={error} />
          {data && (
            <>
              <p className="font-mono">{file.kept.card}</p>
              <PlayedAgain kept={file.kept} played={data} />
            </>
          )}
        </>
      )}
    </details>
  );
}
