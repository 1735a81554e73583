/** All cardholders as a sheet, as it comes in again. */
import { useLazyPeopleOutQuery } from '../../../platform/endpoints/people.ts';
import { SheetButton } from '../../../platform/files/SheetButton.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { sheetOfPeople } from '../sheet/personRows.ts';

const PAGE = 1000;

export function AsSheet() {
  const { id: site } = useSite();
  const [ask] = useLazyPeopleOutQuery();
  return (
    <SheetButton
      name="cardholders"
      page={async (after) => {
        const { data } = await ask({ site, after, limit: PAGE });
        return data && { rows: data.people, next: data.next };
      }}
      sheetOf={sheetOfPeople}
    >
      As a sheet
    </SheetButton>
  );
}
