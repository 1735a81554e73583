/** The screens of the rail, in the order of the work, and those reached from elsewhere. */
import type { Permission } from '@rawbits/api';
import {
  DoorOpen,
  KeyRound,
  type LucideIcon,
  Nfc,
  PackageOpen,
  Ruler,
  ScanLine,
  ScanSearch,
  ScrollText,
} from 'lucide-react';

export const SCREENS: { path: string; name: string; icon: LucideIcon; about: string }[] = [
  { path: 'read', name: 'Read', icon: ScanLine, about: 'What a credential says' },
  { path: 'identify', name: 'Identify', icon: ScanSearch, about: 'Prove the format of unknown cards' },
  { path: 'formats', name: 'Formats', icon: Ruler, about: 'The format library and this site’s formats' },
  { path: 'stock', name: 'Stock', icon: PackageOpen, about: 'Cards, and who holds them' },
  { path: 'keys', name: 'Keys', icon: KeyRound, about: 'Keys, by their check values; who holds what' },
  {
    path: 'encode',
    name: 'Encode',
    icon: Nfc,
    about: 'Chip plans, what their keys can do, and runs that encode cards',
  },
  { path: 'doors', name: 'Doors', icon: DoorOpen, about: 'Controllers: wanted, loaded, events' },
  { path: 'trail', name: 'Trail', icon: ScrollText, about: 'What happened, and who changed what' },
];

export const OTHER_SCREENS: { path: string; name: string; needs: Permission }[] = [
  { path: 'operators', name: 'Operators', needs: 'agree on custodians' },
  { path: 'site', name: 'Site', needs: 'manage sites' },
  { path: 'account', name: 'Your account', needs: 'see the site' },
];
