import * as z from 'zod/mini';
import { cleanedList } from '@/core/clean/messages.ts';
import { knownCut } from '@/core/contract/cut.ts';
import {
  type AskPlacing,
  type AskRecognition,
  type AskSpeakers,
  type ChangeTogether,
  created,
  decisionLog,
  episodeDetail,
  errorAnswer,
  folderListing,
  imported,
  lessonBook,
  type MaskList,
  maskLists,
  type NewRecording,
  recogniserList,
  type SaveSettingsSet,
  type SwitchLesson,
  settingsSet,
  settingsSets,
  shelf,
} from '@/core/contract/messages.ts';
import { type AskModel, modelList } from '@/core/contract/models.ts';
import { wordsAnswer } from '@/core/contract/words.ts';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import {
  type BroughtBack,
  comparisonAnswer,
  type HandoffOptions,
  type HandoffScope,
  handoffOptions,
  handoffView,
} from '@/core/outputs/messages.ts';
import { type AskRender, renderList } from '@/core/render/messages.ts';

// Pages allow no code that is made of text, and a schema would try whether they do.
z.config({ jitless: true });

/** The server said no, in words fit to show. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

async function call<T>(schema: z.ZodMiniType<T>, path: string, method = 'GET', body?: unknown): Promise<T> {
  const answer = await fetch(path, {
    method,
    ...(body !== undefined && { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
  });
  if (!answer.ok) {
    const parsed = errorAnswer.safeParse(await answer.json().catch(() => undefined));
    throw new ApiError(answer.status, parsed.success ? parsed.data.error : `The server answered ${answer.status}.`);
  }
  return schema.parse(answer.status === 204 ? undefined : await answer.json());
}

const scopeQuery = ({ part, range }: HandoffScope): Record<string, string> => ({
  ...(part !== undefined && { part: String(part) }),
  ...(range !== undefined && { range }),
});
const query = (values: Readonly<Record<string, string>>): string => new URLSearchParams(values).toString();

const nothing = z.undefined();
const episode = (id: string) => `/api/episodes/${id}`;

/** The one client of the server, typed by the schemas that the server parses with. */
export const api = {
  shelf: () => call(shelf, '/api/episodes'),
  create: (wanted: NewRecording) => call(created, '/api/episodes', 'POST', wanted),
  addRecording: (id: string, wanted: NewRecording) => call(created, `${episode(id)}/recordings`, 'POST', wanted),
  changeTogether: (id: string, change: ChangeTogether) => call(nothing, `${episode(id)}/together`, 'POST', change),
  takeReplacement: (id: string, recording: string) => call(nothing, `${episode(id)}/replacement`, 'POST', { recording }),
  folder: () => call(folderListing, '/api/folder'),
  episode: (id: string) => call(episodeDetail, episode(id)),
  knownCut: (id: string) => call(z.optional(knownCut), api.knownCutAddress(id)),
  knownCutAddress: (id: string) => `${episode(id)}/cut`,
  rename: (id: string, title: string) => call(nothing, episode(id), 'PATCH', { title }),
  remove: (id: string) => call(nothing, episode(id), 'DELETE'),
  bringBack: (id: string) => call(nothing, `${episode(id)}/restore`, 'POST'),
  archive: (id: string) => `${episode(id)}/archive`,
  forget: (id: string) => call(nothing, `${episode(id)}?forGood`, 'DELETE'),
  /** by the upload protocol (tus.io 1.0) */
  discardUpload: async (id: string): Promise<void> => {
    const answer = await fetch(`/api/uploads/${id}`, { method: 'DELETE', headers: { 'tus-resumable': '1.0.0' } });
    if (!answer.ok && answer.status !== 404) throw new ApiError(answer.status, await answer.text());
  },
  signOut: (everywhere: boolean) => call(nothing, `/api/sign-in${everywhere ? '?everywhere' : ''}`, 'DELETE'),
  retry: (id: string) => call(nothing, `${episode(id)}/retry`, 'POST'),
  cancelJob: (id: string) => call(nothing, `/api/jobs/${id}/cancel`, 'POST'),
  words: (id: string, version: number) => call(wordsAnswer, api.wordsAddress(id, version)),
  wordsAddress: (id: string, version: number) => `${episode(id)}/words?version=${version}`,
  models: () => call(modelList, '/api/models'),
  addModel: (wanted: AskModel) => call(nothing, '/api/models/adding', 'POST', wanted),
  stopAddingModel: () => call(nothing, '/api/models/adding', 'DELETE'),
  removeModel: (name: string) => call(nothing, `/api/models/${encodeURIComponent(name)}`, 'DELETE'),
  recognisers: () => call(recogniserList, '/api/recognisers'),
  recognise: (id: string, ask: AskRecognition) => call(nothing, `${episode(id)}/recognise`, 'POST', ask),
  placeWords: (id: string, ask: AskPlacing) => call(nothing, `${episode(id)}/place`, 'POST', ask),
  tellSpeakers: (id: string, ask: AskSpeakers) => call(nothing, `${episode(id)}/speakers`, 'POST', ask),
  masks: () => call(maskLists, '/api/masks'),
  keepMasks: (list: MaskList) => call(nothing, '/api/masks', 'PUT', list),
  /** all words, in the time of the recordings */
  transcriptFile: (id: string, format: string, mask: boolean) =>
    `${episode(id)}/transcript?format=${format}&mask=${mask ? 'yes' : 'no'}`,
  importWords: (id: string, text: string, recording?: string) =>
    call(imported, `${episode(id)}/words`, 'PUT', { text, ...(recording && { recording }) }),
  nameLanguage: (id: string, language: string) => call(nothing, `${episode(id)}/words`, 'PATCH', { language }),
  decisions: (id: string, after: number) => call(decisionLog, `${episode(id)}/decisions?after=${after}`),
  append: (id: string, events: readonly DecisionEvent[]) => call(decisionLog, `${episode(id)}/decisions`, 'POST', { events }),
  sets: () => call(settingsSets, '/api/sets'),
  addSet: (set: SaveSettingsSet) => call(settingsSet, '/api/sets', 'POST', set),
  importSet: (text: string) => call(settingsSet, '/api/sets', 'PUT', { text }),
  changeSet: (id: string, set: SaveSettingsSet) => call(settingsSet, `/api/sets/${id}`, 'PUT', set),
  removeSet: (id: string) => call(nothing, `/api/sets/${id}`, 'DELETE'),
  /** @param set null for what was taught without a named set */
  lessons: (set: string | null) => call(lessonBook, `/api/lessons?${query({ set: set ?? '' })}`),
  switchLesson: (wanted: SwitchLesson) => call(lessonBook, '/api/lessons', 'PUT', wanted),
  handoff: (id: string, scope: HandoffScope = {}) => call(handoffView, `${episode(id)}/handoff?${query(scopeQuery(scope))}`),
  chooseHandoff: (id: string, changed: Partial<HandoffOptions>) => call(handoffOptions, `${episode(id)}/handoff`, 'PUT', changed),
  handoffFile: (id: string, format: string, file: number, scope: HandoffScope = {}) =>
    `${episode(id)}/handoff?${query({ format, file: String(file), ...scopeQuery(scope) })}`,
  handoffArchive: (id: string, formats: readonly string[], by: 'all' | 'parts' | 'ranges') =>
    `${episode(id)}/handoff-archive?${query({ formats: formats.join(','), by })}`,
  cleaned: (id: string) => call(cleanedList, `${episode(id)}/cleaned`),
  cleanedFile: (mediaId: string, key: string, name: string) => `/api/media/${mediaId}/cleaned?${query({ key, name })}`,
  clean: (id: string) => call(nothing, `${episode(id)}/cleaned`, 'POST'),
  renders: (id: string) => call(renderList, `${episode(id)}/renders`),
  render: (id: string, wanted: AskRender) => call(created, `${episode(id)}/renders`, 'POST', wanted),
  renderAgain: (render: string) => call(nothing, `/api/renders/${render}`, 'POST'),
  removeRender: (render: string) => call(nothing, `/api/renders/${render}`, 'DELETE'),
  /** @param play to be shown in the page, not saved */
  rendered: (render: string, play = false) => `/api/renders/${render}/file${play ? '?play' : ''}`,
  comparison: (id: string) => call(comparisonAnswer, `${episode(id)}/edited`),
  bringBackTimeline: (id: string, brought: BroughtBack) => call(comparisonAnswer, `${episode(id)}/edited`, 'PUT', brought),
  forgetTimeline: (id: string) => call(nothing, `${episode(id)}/edited`, 'DELETE'),
  onEdited: (id: string, format: string) => `${episode(id)}/edited?${query({ format })}`,
  curve: async (address: string): Promise<Uint8Array> => {
    const answer = await fetch(address);
    if (!answer.ok) throw new ApiError(answer.status, 'What was measured could not be fetched.');
    return new Uint8Array(await answer.arrayBuffer());
  },
  /** of a curve file: `level-0`, `speech-1`, `motion` */
  curveAddress: (mediaId: string, name: string) => `/api/media/${mediaId}/curves/${name}.ztcv`,
  peaks: (mediaId: string, track: number, layer: number) => api.curveAddress(mediaId, `peaks-${track}-${layer}`),
  picture: (mediaId: string) => `/api/media/${mediaId}/picture`,
  sound: (mediaId: string, part: number, cleaned?: string) =>
    `/api/media/${mediaId}/sound?part=${part}${cleaned === undefined ? '' : `&cleaned=${cleaned}`}`,
};
