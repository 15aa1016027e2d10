import { z } from 'zod';
import { CharacterHash, Edit, Shot } from '../shot/index';
import { Job, JobRequest, PostJobs } from './jobs';

/** Every error the server sends, whatever went wrong. */
export const ApiError = z.object({
  error: z.object({
    /** Stable, for programs. */
    code: z.string(),
    /** One sentence: what is wrong and where. */
    message: z.string(),
    /** One sentence: what to do. */
    remedy: z.string(),
  }),
});

export const ShotId = z
  .string()
  .regex(/^[a-z0-9]{12,32}$/, { error: 'A shot id is 12–32 letters and digits' });

export const CharacterSummary = z.object({
  hash: CharacterHash,
  fileName: z.string(),
  bytes: z.int(),
  joints: z.int(),
  clips: z.array(z.object({ name: z.string(), duration: z.number() })),
  /** What a unit of the file is, m, and how that is known. */
  unit: z.object({ metres: z.number(), why: z.string() }),
  /** Shots that are made with it, and not deleted. */
  shots: z.int(),
  createdAt: z.string(),
});
export type CharacterSummary = z.infer<typeof CharacterSummary>;

export const ShotSummary = z.object({
  id: ShotId,
  name: z.string(),
  characterHash: CharacterHash,
  characterName: z.string(),
  clip: z.string(),
  parts: z.int(),
  frames: z.int(),
  revision: z.int(),
  updatedAt: z.string(),
});
export type ShotSummary = z.infer<typeof ShotSummary>;

/** Some of the shots, and how many fit what was asked in all. */
export const ShotPage = z.object({ shots: z.array(ShotSummary), total: z.int() });
export type ShotPage = z.infer<typeof ShotPage>;

/** Which shots are asked for: those with all these words in their names, in an order, from one on. */
export const ShotsAsked = z.object({
  search: z.string().max(200).default(''),
  sort: z.enum(['changed', 'name', 'character']).default('changed'),
  from: z.coerce.number().int().min(0).default(0),
  count: z.coerce.number().int().min(1).max(200).default(60),
});
export type ShotsAsked = z.infer<typeof ShotsAsked>;

export const ShotState = z.object({ id: ShotId, revision: z.int(), shot: Shot });
export type ShotState = z.infer<typeof ShotState>;

export const PostEdits = z.strictObject({
  /** The revision the edits were made on. */
  baseRevision: z.int().min(0),
  edits: z.array(Edit).min(1).max(200),
});
export type PostEdits = z.infer<typeof PostEdits>;

export const EditRecord = z.object({ revision: z.int(), edit: Edit });
export type EditRecord = z.infer<typeof EditRecord>;

const Empty = z.object({});

interface Endpoint {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  readonly path: string;
  readonly says: string;
  readonly body: z.ZodType | 'upload' | null;
  readonly response: z.ZodType | 'bytes';
  readonly errors: readonly string[];
}

/** Every endpoint, once: the server routes it, the client calls it, docs/api.md is printed from it. */
export const ENDPOINTS = {
  health: {
    method: 'GET',
    path: '/api/health',
    says: 'Whether the server and its database answer and take changes.',
    body: null,
    response: z.object({ ok: z.literal(true), version: z.string() }),
    errors: ['database.lost', 'database.read-only', 'disk.full'],
  },
  listCharacters: {
    method: 'GET',
    path: '/api/characters',
    says: 'All character files, newest first.',
    body: null,
    response: z.array(CharacterSummary),
    errors: [],
  },
  uploadCharacter: {
    method: 'POST',
    path: '/api/characters?name=FILE&of=HASH',
    says: [
      'Stores a character file (glTF 2.0: .glb, .gltf or .zip). The same bytes are stored once.',
      'With `of` it is that character with a clip baked into it, and is not listed.',
    ].join(' '),
    body: 'upload',
    response: CharacterSummary,
    errors: [
      'file.not-gltf',
      'file.truncated',
      'file.invalid',
      'file.too-large',
      'file.missing-resource',
      'file.unsupported',
    ],
  },
  getCharacter: {
    method: 'GET',
    path: '/api/characters/:hash',
    says: 'What a character file holds.',
    body: null,
    response: CharacterSummary,
    errors: ['not-found'],
  },
  downloadCharacter: {
    method: 'GET',
    path: '/api/characters/:hash/file',
    says: 'The file’s own bytes.',
    body: null,
    response: 'bytes',
    errors: ['not-found'],
  },
  deleteCharacter: {
    method: 'DELETE',
    path: '/api/characters/:hash',
    says: 'Removes a character no shot uses.',
    body: null,
    response: Empty,
    errors: ['not-found', 'character.in-use'],
  },
  listShots: {
    method: 'GET',
    path: '/api/shots?search=WORDS&sort=changed|name|character&from=N&count=N',
    says: [
      'Shots that are not deleted, without their documents, a page of up to 200 at a time:',
      'those with all the words in their name, their character or their clip, last changed first.',
    ].join(' '),
    body: null,
    response: ShotPage,
    errors: ['request.invalid'],
  },
  createShot: {
    method: 'POST',
    path: '/api/shots',
    says: 'Stores a new shot document; its character must be stored already.',
    body: Shot,
    response: ShotState,
    errors: ['shot.invalid', 'not-found'],
  },
  getShot: {
    method: 'GET',
    path: '/api/shots/:id',
    says: 'A shot and its revision.',
    body: null,
    response: ShotState,
    errors: ['not-found'],
  },
  listEdits: {
    method: 'GET',
    path: '/api/shots/:id/edits?after=REVISION',
    says: 'The edits made after a revision, in order.',
    body: null,
    response: z.array(EditRecord),
    errors: ['not-found'],
  },
  postEdits: {
    method: 'POST',
    path: '/api/shots/:id/edits',
    says: 'Appends edits; answered after commit. A stale base gets 409 edit.stale; an edit sent before is not applied again.',
    body: PostEdits,
    response: z.object({ revision: z.int() }),
    errors: ['not-found', 'edit.stale', 'edit.invalid', 'shot.invalid'],
  },
  duplicateShot: {
    method: 'POST',
    path: '/api/shots/:id/duplicate',
    says: 'A copy under a new id, named “… copy”.',
    body: Empty,
    response: ShotState,
    errors: ['not-found'],
  },
  deleteShot: {
    method: 'DELETE',
    path: '/api/shots/:id',
    says: 'Deletes a shot; it can be restored.',
    body: null,
    response: Empty,
    errors: ['not-found'],
  },
  restoreShot: {
    method: 'POST',
    path: '/api/shots/:id/restore',
    says: 'Takes a deletion back.',
    body: Empty,
    response: ShotState,
    errors: ['not-found'],
  },
  createJobs: {
    method: 'POST',
    path: '/api/jobs',
    says: 'Puts bakes and films into the queue, a job a shot. A job that was asked for before, and has not failed, is that one again.',
    body: PostJobs,
    response: z.array(Job),
    errors: ['not-found', 'shot.invalid', 'bake.invalid'],
  },
  listJobs: {
    method: 'GET',
    path: '/api/jobs',
    says: 'The jobs of the last days, newest first.',
    body: null,
    response: z.array(Job),
    errors: [],
  },
  watchJobs: {
    method: 'GET',
    path: '/api/jobs/events',
    says: 'Server-sent events: `job` with a job whenever one changes, beginning with those that are not over.',
    body: null,
    response: 'bytes',
    errors: [],
  },
  getJob: {
    method: 'GET',
    path: '/api/jobs/:id',
    says: 'How far a job is, and what it has made.',
    body: null,
    response: Job,
    errors: ['not-found'],
  },
  getJobRequest: {
    method: 'GET',
    path: '/api/jobs/:id/request',
    says: 'What a job was asked to do.',
    body: null,
    response: JobRequest,
    errors: ['not-found'],
  },
  cancelJob: {
    method: 'POST',
    path: '/api/jobs/:id/cancel',
    says: 'Stops a job that is not over. What it has baked already is kept for when it is asked for again.',
    body: Empty,
    response: Job,
    errors: ['not-found', 'job.over'],
  },
  retryJob: {
    method: 'POST',
    path: '/api/jobs/:id/retry',
    says: 'Puts a job that failed or was cancelled into the queue again.',
    body: Empty,
    response: Job,
    errors: ['not-found', 'job.over'],
  },
  deleteJob: {
    method: 'DELETE',
    path: '/api/jobs/:id',
    says: 'Takes a job that is over off the list, with what it has made.',
    body: null,
    response: Empty,
    errors: ['not-found', 'job.running'],
  },
  downloadJobFile: {
    method: 'GET',
    path: '/api/jobs/:id/files/:name',
    says: 'A file that a job has made; `all.zip` for all of them with a manifest.',
    body: null,
    response: 'bytes',
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
export type EndpointName = keyof typeof ENDPOINTS;
