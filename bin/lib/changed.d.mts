export interface Checks {
  everything: boolean;
  whole: string[];
  related: string[];
  types: boolean;
  build: boolean;
}
export function checksOf(names: readonly string[]): Checks;
