/** Whether the controllers are loaded in the same step: where a card stops they are, unless somebody says otherwise. */
interface Props {
  checked: boolean;
  onChange: (checked: boolean) => void;
  /** What the load does at the doors. */
  why: string;
}

export function LoadToo({ checked, onChange, why }: Props) {
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      <span>
        Load the controllers now: <span className="text-ink-2">{why}</span>
      </span>
    </label>
  );
}
