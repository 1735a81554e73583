/** Every command that a file-system card has, by its name in the chip's data sheet, with its code (CHIPS, "Layouts"). */
export const FILES_COMMANDS = {
  Authenticate: 0x0a,
  AuthenticateISO: 0x1a,
  AuthenticateAES: 0xaa,
  AuthenticateEV2First: 0x71,
  AuthenticateEV2NonFirst: 0x77,
  AdditionalFrame: 0xaf,
  CreateApplication: 0xca,
  DeleteApplication: 0xda,
  GetApplicationIDs: 0x6a,
  GetDFNames: 0x6d,
  SelectApplication: 0x5a,
  FormatPICC: 0xfc,
  GetVersion: 0x60,
  FreeMem: 0x6e,
  SetConfiguration: 0x5c,
  GetCardUID: 0x51,
  ChangeKeySettings: 0x54,
  GetKeySettings: 0x45,
  CommitTransaction: 0xc7,
  AbortTransaction: 0xa7,
  GetKeyVersion: 0x64,
  ChangeKey: 0xc4,
  CreateStdDataFile: 0xcd,
  CreateBackupDataFile: 0xcb,
  CreateValueFile: 0xcc,
  CreateLinearRecordFile: 0xc1,
  CreateCyclicRecordFile: 0xc0,
  DeleteFile: 0xdf,
  GetFileIDs: 0x6f,
  GetISOFileIDs: 0x61,
  GetFileSettings: 0xf5,
  ChangeFileSettings: 0x5f,
  ReadData: 0xbd,
  WriteData: 0x3d,
  ReadRecords: 0xbb,
  WriteRecord: 0x3b,
  GetValue: 0x6c,
  Credit: 0x0c,
  LimitedCredit: 0x1c,
  Debit: 0xdc,
  ClearRecordFile: 0xeb,
} as const;

/** The name of a command of a file-system card. */
export type FilesCommand = keyof typeof FILES_COMMANDS;

/** What the card itself does with frames and authentications; every other command is carried out by its entry in `commands`. */
type OfFrames =
  | 'Authenticate'
  | 'AuthenticateISO'
  | 'AuthenticateAES'
  | 'AuthenticateEV2First'
  | 'AuthenticateEV2NonFirst'
  | 'AdditionalFrame';
export type CarriedOut = Exclude<FilesCommand, OfFrames>;
