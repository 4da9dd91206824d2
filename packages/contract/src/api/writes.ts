import type { VehicleIdentity } from '@just-balance/core/link';
import type {
  ClearRequest,
  EntryData,
  EntryKind,
  NewRunRequest,
  PhotoPatch,
  ProcedureFileRequest,
  RunEventsRequest,
  TakeBackRequest,
} from '../service/index.ts';
import type {
  AccountView,
  InvitationRequest,
  LinkGiven,
  NewPersonRequest,
  PasswordRequest,
  PersonPatchRequest,
  PersonView,
  SetupRequest,
  SignInRequest,
} from './accounts.ts';
import type { ArchiveTaken } from './archives.ts';
import type { EraseRequest } from './audit.ts';
import type {
  CaptureCommand,
  CaptureStatus,
  CaptureView,
  NewCaptureRequest,
  OfflineAnswer,
  OfflineCaptureRequest,
  OfflineEndRequest,
  OfflineSecondsRequest,
} from './captures.ts';
import type { AcknowledgeRequest, CautionView } from './cautions.ts';
import type { StoredDiagnosis } from './diagnosis.ts';
import type { JobPatchRequest, JobSummary, MendRequest, NewJobRequest, UndoRequest } from './jobs.ts';
import type { KnownFigureRequest, KnownView } from './known.ts';
import type { LearnedView, LeaveOutRequest } from './learning.ts';
import type { ChooseEngineRequest, IdentifyRequest, LinkStatus } from './links.ts';
import type { SavedViewRequest, SavedViewView } from './logbook.ts';
import type { BayCommand, BayView } from './practice.ts';
import type { NewReadingRequest, ReadingChangeRequest, ReadingView } from './readings.ts';
import type {
  FinishImportRequest,
  LayoutQuery,
  LayoutRequest,
  LayoutView,
  MarkDto,
  NewImportRequest,
  RecordingView,
} from './recordings.ts';
import type {
  HandRecordRequest,
  HeardRecordRequest,
  RecordChangeRequest,
  RecordRequest,
  RecordView,
} from './records.ts';
import type { NewRepairRequest, RepairView } from './repairs.ts';
import type { EntryView, OwnView, PhotoView, RunView } from './service.ts';
import type { SettingsView, ShopSettingsRequest } from './settings.ts';
import type { NewTestRequest, TestView } from './tests.ts';
import type { AnswerRequest, AskRequest, AttemptView, DriveAnswerRequest, NewAttemptRequest } from './trainer.ts';
import type { VehicleChangeRequest, VehicleView } from './vehicles.ts';

declare const BODY: unique symbol;
declare const ANSWER: unique symbol;

/** A write: how and where below `/api`, what it takes, and what the server answers once it is done. */
export interface Write<Body, Answer> {
  readonly method: 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  readonly path: string;
  readonly [BODY]?: (body: Body) => void;
  readonly [ANSWER]?: Answer;
}

/** Each part is made safe for its place in the address. */
const by =
  (method: Write<never, never>['method']) =>
  <Body, Answer = void>() =>
  (words: TemplateStringsArray, ...parts: (string | number)[]): Write<Body, Answer> => ({
    method,
    path: String.raw({ raw: words }, ...parts.map((p) => encodeURIComponent(p))),
  });
const post = by('POST');
const put = by('PUT');
const patch = by('PATCH');
const remove = by('DELETE');

/** Nothing but the address says what is meant. */
type Nothing = Record<string, never>;
/** An entry of any kind, with what belongs to that kind. */
export type NewEntry = { [K in EntryKind]: { id: string; kind: K; data: EntryData[K] } }[EntryKind];

/** A channel of a recording on its way in: which part of it, and how its numbers are packed. */
export interface ColumnPlace {
  channel: string;
  part: number;
  unit: string;
  quantum: number | null;
}

/** What can be written, typed once: the page writes nothing else. */
export const WRITES = {
  signIn: post<SignInRequest, AccountView>()`/session`,
  setUp: post<SetupRequest, AccountView>()`/session/setup`,
  acceptInvitation: post<InvitationRequest, AccountView>()`/session/invitation`,
  signOut: remove<Nothing>()`/session`,
  changePassword: post<PasswordRequest>()`/account/password`,
  signOutElsewhere: remove<Nothing>()`/account/sessions`,
  signOutOne: (session: string) => remove<Nothing>()`/account/sessions/${session}`,
  addPerson: post<NewPersonRequest, PersonView>()`/people`,
  changePerson: (person: string) => patch<PersonPatchRequest, PersonView>()`/people/${person}`,
  linkForPerson: (person: string) => post<Nothing, LinkGiven>()`/people/${person}/link`,
  signPersonOut: (person: string) => remove<Nothing>()`/people/${person}/sessions`,

  settings: put<ShopSettingsRequest, SettingsView>()`/shop/settings`,
  ownProcedure: post<ProcedureFileRequest, OwnView<unknown>>()`/procedures/file`,
  takeBackProcedure: (id: string) => post<TakeBackRequest, OwnView<unknown>>()`/procedures/${id}/take-back`,
  changeProcedure: (id: string) => patch<UndoRequest, OwnView<unknown>>()`/procedures/${id}`,
  learnFrom: (job: string) => put<LeaveOutRequest, LearnedView>()`/learned/jobs/${job}`,
  keepView: (view: string) => put<SavedViewRequest, SavedViewView[]>()`/logbook/views/${view}`,
  dropView: (view: string) => remove<Nothing, SavedViewView[]>()`/logbook/views/${view}`,
  findLayout: post<LayoutQuery, { found: LayoutView | null }>()`/layouts/find`,
  keepLayout: put<LayoutRequest>()`/layouts`,
  eraseVehicle: (vehicle: string) => post<EraseRequest, { jobs: number }>()`/vehicles/${vehicle}/erase`,
  archiveIn: post<object, ArchiveTaken>()`/archives`,
  identify: post<IdentifyRequest, VehicleIdentity>()`/adapters/identify`,

  newJob: post<NewJobRequest, JobSummary>()`/jobs`,
  changeJob: (job: string) => patch<JobPatchRequest, JobSummary>()`/jobs/${job}`,
  changeVehicle: (job: string) => put<VehicleChangeRequest, VehicleView>()`/jobs/${job}/vehicle`,
  mend: (job: string, resource: string, row: string) =>
    put<MendRequest, { id: string }>()`/jobs/${job}/damaged/${resource}/${row}`,
  weighAgain: (job: string) => post<Nothing, StoredDiagnosis>()`/jobs/${job}/diagnosis`,
  acknowledge: (job: string) => post<AcknowledgeRequest, CautionView>()`/jobs/${job}/cautions`,
  openLink: (job: string) => post<Nothing, LinkStatus>()`/jobs/${job}/link`,

  addReading: (job: string) => post<NewReadingRequest, ReadingView>()`/jobs/${job}/readings`,
  changeReading: (job: string, row: string) => put<ReadingChangeRequest, ReadingView>()`/jobs/${job}/readings/${row}`,
  undoReading: (job: string, row: string) => patch<UndoRequest, ReadingView>()`/jobs/${job}/readings/${row}`,
  addTest: (job: string) => post<NewTestRequest, TestView>()`/jobs/${job}/tests`,
  undoTest: (job: string, row: string) => patch<UndoRequest, TestView>()`/jobs/${job}/tests/${row}`,
  addRepair: (job: string) => post<NewRepairRequest, RepairView>()`/jobs/${job}/repairs`,
  undoRepair: (job: string, row: string) => patch<UndoRequest, RepairView>()`/jobs/${job}/repairs/${row}`,
  addKnown: (job: string) => post<KnownFigureRequest, KnownView>()`/jobs/${job}/known`,
  undoKnown: (job: string, row: string) => patch<UndoRequest, KnownView>()`/jobs/${job}/known/${row}`,
  addEntry: (job: string) => post<NewEntry, EntryView>()`/jobs/${job}/entries`,
  undoEntry: (job: string, row: string) => patch<UndoRequest, EntryView>()`/jobs/${job}/entries/${row}`,
  /** `label`: in words; run and step, where it belongs to one. */
  addPhoto: (
    job: string,
    photo: string,
    of: { label: string; run?: string | undefined; step?: string | undefined },
  ) => {
    const { method, path } = put<ArrayBuffer, PhotoView>()`/jobs/${job}/photos/${photo}?label=${of.label}`;
    const rest = [of.run && `&run=${encodeURIComponent(of.run)}`, of.step && `&step=${encodeURIComponent(of.step)}`];
    return { method, path: path + rest.filter(Boolean).join('') } as Write<ArrayBuffer, PhotoView>;
  },
  changePhoto: (job: string, photo: string) => patch<PhotoPatch, PhotoView>()`/jobs/${job}/photos/${photo}`,

  readRecord: (job: string) => post<RecordRequest, RecordView>()`/jobs/${job}/records`,
  heardRecord: (job: string) => post<HeardRecordRequest, RecordView>()`/jobs/${job}/records/heard`,
  recordByHand: (job: string) => post<HandRecordRequest, RecordView>()`/jobs/${job}/records/by-hand`,
  changeRecord: (job: string, row: string) => put<RecordChangeRequest, RecordView>()`/jobs/${job}/records/${row}`,
  clearCodes: (job: string) => post<ClearRequest, EntryView>()`/jobs/${job}/records/clear`,

  beginRun: (job: string) => post<NewRunRequest, RunView>()`/jobs/${job}/runs`,
  sayOfRun: (job: string, run: string) => post<RunEventsRequest, RunView>()`/jobs/${job}/runs/${run}/events`,

  chooseEngine: (job: string) => post<ChooseEngineRequest, LinkStatus>()`/jobs/${job}/link/engine`,
  startCapture: (job: string) => post<NewCaptureRequest, CaptureStatus>()`/jobs/${job}/captures`,
  commandCapture: (job: string, capture: string) =>
    post<CaptureCommand, CaptureStatus>()`/jobs/${job}/captures/${capture}/command`,
  beginOffline: (job: string) => post<OfflineCaptureRequest, OfflineAnswer>()`/jobs/${job}/captures/spooled`,
  offlineSeconds: (job: string, capture: string) =>
    post<OfflineSecondsRequest, OfflineAnswer>()`/jobs/${job}/captures/${capture}/seconds`,
  endOffline: (job: string, capture: string) =>
    post<OfflineEndRequest, OfflineAnswer>()`/jobs/${job}/captures/${capture}/end`,
  mark: (job: string, capture: string) => post<MarkDto, RecordingView>()`/jobs/${job}/captures/${capture}/marks`,
  beginImport: (job: string) =>
    post<NewImportRequest, { id: string; received: Record<string, number> }>()`/jobs/${job}/imports`,
  importColumn: (
    job: string,
    capture: string,
    { channel, part, unit, quantum }: ColumnPlace,
  ): Write<ArrayBuffer, void> =>
    quantum === null
      ? put<ArrayBuffer>()`/jobs/${job}/imports/${capture}/columns/${channel}?part=${part}&unit=${unit}`
      : put<ArrayBuffer>()`/jobs/${job}/imports/${capture}/columns/${channel}?part=${part}&unit=${unit}&quantum=${quantum}`,
  finishImport: (job: string, capture: string) =>
    post<FinishImportRequest, CaptureView>()`/jobs/${job}/imports/${capture}/finish`,

  bay: (bay: number) => post<BayCommand, BayView>()`/bays/${bay}`,
  beginAttempt: post<NewAttemptRequest, AttemptView>()`/practice/attempts`,
  askCar: (attempt: string) => post<AskRequest, AttemptView>()`/practice/attempts/${attempt}/ask`,
  answerAttempt: (attempt: string) => post<AnswerRequest, AttemptView>()`/practice/attempts/${attempt}/answer`,
  answerDrive: (attempt: string) => post<DriveAnswerRequest, AttemptView>()`/practice/attempts/${attempt}/drive`,
  giveUpAttempt: (attempt: string) => post<Nothing, AttemptView>()`/practice/attempts/${attempt}/give-up`,
  signAttempt: (attempt: string) => post<Nothing, AttemptView>()`/practice/attempts/${attempt}/sign`,
} as const;
