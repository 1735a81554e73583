/** How badges are to look, and on what they are printed. */
import type { NumberOf } from './badge.ts';
import type { CodeKind } from './codes.ts';
import { DESIGNS } from './designs.ts';
import type { Paper } from './pdf.ts';
import type { BadgeSettings } from './useBadgeSettings.ts';

interface Props {
  settings: BadgeSettings;
  onSettings: (next: Partial<BadgeSettings>) => void;
}

const CODES: [CodeKind, string][] = [
  ['barcode', 'as a barcode (Code 128)'],
  ['qr', 'as a QR code'],
  ['none', 'in figures only'],
];
const NUMBERS: [NumberOf, string][] = [
  ['printed', 'as it is printed on the card, or else its number'],
  ['number', 'its number'],
  ['both', 'facility code and number'],
];
const PAPERS: [Paper, string][] = [
  ['card', 'one a page, in the size of a card'],
  ['A4', 'A4 sheets, with marks to cut along'],
];

export function BadgeChoices({ settings, onSettings }: Props) {
  return (
    <>
      <Choice
        legend="Design"
        name="design"
        value={settings.design}
        choices={DESIGNS.map(({ name, words }) => [name, words])}
        onChoose={(design) => onSettings({ design })}
      />
      <Choice
        legend="The number"
        name="numberOf"
        value={settings.numberOf}
        choices={NUMBERS}
        onChoose={(numberOf) => onSettings({ numberOf })}
      />
      <Choice
        legend="Shown"
        name="code"
        value={settings.code}
        choices={CODES}
        onChoose={(code) => onSettings({ code })}
      />
      <Choice
        legend="On paper"
        name="paper"
        value={settings.paper}
        choices={PAPERS}
        onChoose={(paper) => onSettings({ paper })}
      />
    </>
  );
}

interface ChoiceProps<T extends string> {
  legend: string;
  name: string;
  value: T;
  choices: readonly (readonly [T, string])[];
  onChoose: (value: T) => void;
}

function Choice<T extends string>({ legend, name, value, choices, onChoose }: ChoiceProps<T>) {
  return (
    <fieldset>
      <legend className="font-bold">{legend}</legend>
      {choices.map(([one, words]) => (
        <label key={one} className="flex items-start gap-2 py-0.5">
          <input
            type="radio"
            name={name}
            className="radio radio-sm mt-0.5"
            checked={value === one}
            onChange={() => onChoose(one)}
          />
          {words}
        </label>
      ))}
    </fieldset>
  );
}
