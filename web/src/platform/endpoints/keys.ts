import {
  type Answer,
  type Body,
  keyApi,
  keyBackupApi,
  keyHoldingApi,
  keyRequestApi,
  keyStoreApi,
  keyUseApi,
  type Params,
  type Route,
  systemIdentifierApi,
} from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

/** The parts of a route's path and its body, as one argument. */
type With<T extends Route> = { params: Params<T>; body: Body<T> };
const invalidatesTags = ['Keys' as const];
const providesTags = ['Keys' as const];

export const keysApi = api.injectEndpoints({
  endpoints: (build) => ({
    keyStore: build.query<Answer<typeof keyStoreApi.state>, string>({
      query: (site) => ask(keyStoreApi.state, { site }),
      // It counts people, too.
      providesTags: ['Keys', 'Operators'],
    }),
    makeKeyStore: build.mutation<Answer<typeof keyStoreApi.make>, With<typeof keyStoreApi.make>>({
      query: ({ params, body }) => send(keyStoreApi.make, params, body),
      invalidatesTags,
    }),
    unlockKeyStore: build.mutation<Answer<typeof keyStoreApi.unlock>, With<typeof keyStoreApi.unlock>>({
      query: ({ params, body }) => send(keyStoreApi.unlock, params, body),
      invalidatesTags,
    }),
    lockKeyStore: build.mutation<Answer<typeof keyStoreApi.lock>, string>({
      query: (site) => ask(keyStoreApi.lock, { site }),
      invalidatesTags,
    }),
    changePassphrase: build.mutation<
      Answer<typeof keyStoreApi.changePassphrase>,
      With<typeof keyStoreApi.changePassphrase>
    >({
      query: ({ params, body }) => send(keyStoreApi.changePassphrase, params, body),
      invalidatesTags,
    }),
    keySets: build.query<Answer<typeof keyApi.list>, string>({
      query: (site) => ask(keyApi.list, { site }),
      providesTags,
    }),
    addKeySet: build.mutation<Answer<typeof keyApi.addSet>, With<typeof keyApi.addSet>>({
      query: ({ params, body }) => send(keyApi.addSet, params, body),
      invalidatesTags,
    }),
    addKey: build.mutation<Answer<typeof keyApi.add>, With<typeof keyApi.add>>({
      query: ({ params, body }) => send(keyApi.add, params, body),
      invalidatesTags,
    }),
    addKeyVersion: build.mutation<Answer<typeof keyApi.addVersion>, With<typeof keyApi.addVersion>>({
      query: ({ params, body }) => send(keyApi.addVersion, params, body),
      invalidatesTags,
    }),
    useKeyVersion: build.mutation<Answer<typeof keyApi.use>, Params<typeof keyApi.use>>({
      query: (params) => ask(keyApi.use, params),
      invalidatesTags,
    }),
    retireKey: build.mutation<Answer<typeof keyApi.retire>, Params<typeof keyApi.retire>>({
      query: (params) => ask(keyApi.retire, params),
      invalidatesTags,
    }),
    giveComponent: build.mutation<Answer<typeof keyApi.give>, With<typeof keyApi.give>>({
      query: ({ params, body }) => send(keyApi.give, params, body),
      invalidatesTags,
    }),
    componentSheet: build.mutation<Answer<typeof keyApi.sheet>, Params<typeof keyApi.sheet>>({
      query: (params) => ask(keyApi.sheet, params),
    }),
    giveUpKeyVersion: build.mutation<Answer<typeof keyApi.giveUp>, Params<typeof keyApi.giveUp>>({
      query: (params) => ask(keyApi.giveUp, params),
      invalidatesTags,
    }),
    importKeys: build.mutation<Answer<typeof keyApi.import>, With<typeof keyApi.import>>({
      query: ({ params, body }) => send(keyApi.import, params, body),
      invalidatesTags,
    }),
    openSealed: build.mutation<Answer<typeof keyApi.openSealed>, With<typeof keyApi.openSealed>>({
      query: ({ params, body }) => send(keyApi.openSealed, params, body),
      invalidatesTags,
    }),
    noteCarriers: build.mutation<Answer<typeof keyApi.carriers>, With<typeof keyApi.carriers>>({
      query: ({ params, body }) => send(keyApi.carriers, params, body),
      invalidatesTags,
    }),
    keyRequests: build.query<Answer<typeof keyRequestApi.list>, string>({
      query: (site) => ask(keyRequestApi.list, { site }),
      providesTags,
    }),
    askForKey: build.mutation<Answer<typeof keyRequestApi.ask>, With<typeof keyRequestApi.ask>>({
      query: ({ params, body }) => send(keyRequestApi.ask, params, body),
      invalidatesTags,
    }),
    agreeOnKey: build.mutation<Answer<typeof keyRequestApi.agree>, With<typeof keyRequestApi.agree>>({
      query: ({ params, body }) => send(keyRequestApi.agree, params, body),
      invalidatesTags,
    }),
    refuseKey: build.mutation<Answer<typeof keyRequestApi.refuse>, Params<typeof keyRequestApi.refuse>>({
      query: (params) => ask(keyRequestApi.refuse, params),
      invalidatesTags,
    }),
    takeSealed: build.mutation<Answer<typeof keyRequestApi.sealed>, Params<typeof keyRequestApi.sealed>>({
      query: (params) => ask(keyRequestApi.sealed, params),
      invalidatesTags,
    }),
    seeKey: build.mutation<Answer<typeof keyRequestApi.see>, Params<typeof keyRequestApi.see>>({
      query: (params) => ask(keyRequestApi.see, params),
      invalidatesTags,
    }),
    keyUses: build.query<Answer<typeof keyUseApi.list>, string>({
      query: (site) => ask(keyUseApi.list, { site }),
      providesTags,
    }),
    narrowKeyUse: build.mutation<Answer<typeof keyUseApi.narrow>, With<typeof keyUseApi.narrow>>({
      query: ({ params, body }) => send(keyUseApi.narrow, params, body),
      invalidatesTags,
    }),
    keyUseRequests: build.query<Answer<typeof keyUseApi.requests>, string>({
      query: (site) => ask(keyUseApi.requests, { site }),
      providesTags,
    }),
    askForKeyUse: build.mutation<Answer<typeof keyUseApi.ask>, With<typeof keyUseApi.ask>>({
      query: ({ params, body }) => send(keyUseApi.ask, params, body),
      invalidatesTags,
    }),
    agreeToKeyUse: build.mutation<Answer<typeof keyUseApi.agree>, With<typeof keyUseApi.agree>>({
      query: ({ params, body }) => send(keyUseApi.agree, params, body),
      invalidatesTags,
    }),
    refuseKeyUse: build.mutation<Answer<typeof keyUseApi.refuse>, Params<typeof keyUseApi.refuse>>({
      query: (params) => ask(keyUseApi.refuse, params),
      invalidatesTags,
    }),
    keyBackups: build.query<Answer<typeof keyBackupApi.list>, string>({
      query: (site) => ask(keyBackupApi.list, { site }),
      providesTags,
    }),
    keyBackupFile: build.mutation<Answer<typeof keyBackupApi.file>, Params<typeof keyBackupApi.file>>({
      query: (params) => ask(keyBackupApi.file, params),
    }),
    rehearseBackup: build.mutation<Answer<typeof keyBackupApi.rehearse>, With<typeof keyBackupApi.rehearse>>({
      query: ({ params, body }) => send(keyBackupApi.rehearse, params, body),
      invalidatesTags,
    }),
    restoreBackup: build.mutation<Answer<typeof keyBackupApi.restore>, With<typeof keyBackupApi.restore>>({
      query: ({ params, body }) => send(keyBackupApi.restore, params, body),
      invalidatesTags,
    }),
    keyHoldings: build.query<Answer<typeof keyHoldingApi.list>, string>({
      query: (site) => ask(keyHoldingApi.list, { site }),
      providesTags,
    }),
    addHolding: build.mutation<Answer<typeof keyHoldingApi.add>, With<typeof keyHoldingApi.add>>({
      query: ({ params, body }) => send(keyHoldingApi.add, params, body),
      invalidatesTags,
    }),
    endHolding: build.mutation<Answer<typeof keyHoldingApi.end>, Params<typeof keyHoldingApi.end>>({
      query: (params) => ask(keyHoldingApi.end, params),
      invalidatesTags,
    }),
    systemIdentifiers: build.query<Answer<typeof systemIdentifierApi.list>, string>({
      query: (site) => ask(systemIdentifierApi.list, { site }),
      providesTags,
    }),
    addSystemIdentifier: build.mutation<Answer<typeof systemIdentifierApi.add>, With<typeof systemIdentifierApi.add>>({
      query: ({ params, body }) => send(systemIdentifierApi.add, params, body),
      invalidatesTags,
    }),
    removeSystemIdentifier: build.mutation<
      Answer<typeof systemIdentifierApi.remove>,
      Params<typeof systemIdentifierApi.remove>
    >({
      query: (params) => ask(systemIdentifierApi.remove, params),
      invalidatesTags,
    }),
  }),
});
export const {
  useKeyStoreQuery,
  useMakeKeyStoreMutation,
  useUnlockKeyStoreMutation,
  useLockKeyStoreMutation,
  useChangePassphraseMutation,
  useKeySetsQuery,
  useAddKeySetMutation,
  useAddKeyMutation,
  useAddKeyVersionMutation,
  useUseKeyVersionMutation,
  useRetireKeyMutation,
  useGiveComponentMutation,
  useComponentSheetMutation,
  useGiveUpKeyVersionMutation,
  useImportKeysMutation,
  useOpenSealedMutation,
  useNoteCarriersMutation,
  useKeyRequestsQuery,
  useAskForKeyMutation,
  useAgreeOnKeyMutation,
  useRefuseKeyMutation,
  useSeeKeyMutation,
  useTakeSealedMutation,
  useKeyUsesQuery,
  useNarrowKeyUseMutation,
  useKeyUseRequestsQuery,
  useAskForKeyUseMutation,
  useAgreeToKeyUseMutation,
  useRefuseKeyUseMutation,
  useKeyBackupsQuery,
  useKeyBackupFileMutation,
  useRehearseBackupMutation,
  useRestoreBackupMutation,
  useKeyHoldingsQuery,
  useAddHoldingMutation,
  useEndHoldingMutation,
  useSystemIdentifiersQuery,
  useAddSystemIdentifierMutation,
  useRemoveSystemIdentifierMutation,
} = keysApi;
