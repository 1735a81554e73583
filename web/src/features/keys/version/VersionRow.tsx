import type { Key, KeyVersion } from '@rawbits/api';
import { useUseKeyVersionMutation } from '../../../platform/endpoints/keys.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useClock } from '../../../platform/site/useClock.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { dayOf, lastDayBefore } from '../../../platform/words/siteDays.ts';
import { CHECK_WORDS, isPastEnd, ORIGIN_WORDS, standingOf } from '../words/words.ts';
import type { Doing } from './doing.ts';

interface Props {
  of: Key;
  version: KeyVersion;
  open: boolean;
  onDo: (doing: Doing) => void;
}

export function VersionRow({ of, version, open, onDo }: Props) {
  const clock = useClock();
  const { id: site, zone, may } = useSite();
  const [use, { error, isLoading }] = useUseKeyVersionMutation();
  const inUse = of.current === version.version && !of.retiredAt;
  const ready = version.state === 'ready';
  /** Rolling over goes forwards; going back to an older version is possible, and not what is offered first. */
  const newer = of.current === null || version.version > of.current;
  const needsAttention = version.state === 'waiting' || (ready && isPastEnd(version));
  const { validFrom, validTo } = version;
  return (
    <tr>
      <td className="font-mono font-bold">{version.version}</td>
      <td>
        {version.checkValue ? <span className="font-mono">{version.checkValue}</span> : '–'}{' '}
        {version.checkValue && version.checkOf && (
          <span className="text-[0.9rem] whitespace-nowrap text-ink-2">{CHECK_WORDS[version.checkOf]}</span>
        )}
        {version.warning && <p className="text-signal">Weak. {version.warning}</p>}
      </td>
      <td className={needsAttention ? 'text-signal' : inUse ? 'font-bold text-primary' : ''}>
        {standingOf(of, version)}
      </td>
      <td>
        {ORIGIN_WORDS[version.origin]}{' '}
        <span className="text-ink-2">
          {version.madeBy}, {clock(version.madeAt)}
        </span>
      </td>
      <td>
        {validFrom || validTo ? `${dayOf(validFrom, zone) || '…'} – ${lastDayBefore(validTo, zone) || '…'}` : 'always'}
      </td>
      <td className="text-right">{version.cards > 0 ? version.cards.toLocaleString('en') : '–'}</td>
      <td>
        {may('hold keys') && version.state !== 'destroyed' && (
          <span className="flex flex-wrap justify-end gap-1">
            {ready && !inUse && !of.retiredAt && (
              <button
                type="button"
                className={`btn btn-small ${newer ? 'btn-primary' : 'btn-line'}`}
                disabled={isLoading}
                onClick={() => void use({ site, id: of.id, version: String(version.version) })}
              >
                Put in use
              </button>
            )}
            {ready && (
              <>
                {of.kind !== 'osdp' && (
                  <button
                    type="button"
                    className="btn btn-line btn-small"
                    onClick={() => onDo({ what: 'cards', version: version.version })}
                  >
                    Cards …
                  </button>
                )}
                <button
                  type="button"
                  className="btn btn-line btn-small"
                  disabled={!open}
                  title={open ? undefined : 'Unlock the key store first'}
                  onClick={() => onDo({ what: 'uncover', version: version.version })}
                >
                  Uncover …
                </button>
              </>
            )}
            {ready && !inUse && (
              <button
                type="button"
                className="btn btn-line btn-small"
                onClick={() => onDo({ what: 'destroy', version: version.version })}
              >
                Destroy …
              </button>
            )}
          </span>
        )}
        <FailureNote failure={error} />
      </td>
    </tr>
  );
}
