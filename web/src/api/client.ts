import createClient from 'openapi-fetch';
import type { components, paths } from '../generated/api';

export type ShotView = components['schemas']['ShotView'];
export type RenderView = components['schemas']['RenderView'];
export type EntryView = components['schemas']['EntryView'];
export type DocumentView = components['schemas']['DocumentView'];
export type OpeningView = components['schemas']['OpeningView'];
export type Missed = components['schemas']['Missed'];

export const api = createClient<paths>({ baseUrl: location.origin });

/** The server's one clear sentence, from its problem details. */
export function sentence(error: unknown): string {
  if (error && typeof error === 'object' && 'detail' in error && typeof error.detail === 'string') return error.detail;
  return 'The server cannot be reached: check that it is running.';
}

/** The data of an answer, or its refusal thrown as an error with one sentence. */
export async function take<T>(answer: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let result;
  try {
    result = await answer;
  } catch {
    throw new Error('The server cannot be reached: check that it is running.');
  }
  if (result.error !== undefined) throw new Error(sentence(result.error));
  return result.data as T;
}
