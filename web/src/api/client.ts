/** The server's routes, typed from its OpenAPI document; errors come back as sentences. */
import createClient from 'openapi-fetch';
import type { paths } from './schema.generated';
import type { StepRequest } from './types';

export const client = createClient<paths>({ baseUrl: '' });

/** What the server has to say; `status` is that of its answer, 0 where there was none. */
export class Refusal extends Error {
  constructor(
    says: string,
    readonly status = 0,
  ) {
    super(says);
  }
}

interface Answer {
  data?: unknown;
  error?: unknown;
  response: Response;
}

/** The data of an answer, or the server's sentence thrown as a Refusal. */
export async function settled<T>(answer: Promise<Answer>): Promise<T> {
  let got: Answer;
  try {
    got = await answer;
  } catch {
    throw new Refusal('The server does not answer. What was shown as saved is on disk; start it again to go on.');
  }
  if (got.error !== undefined || !got.response.ok) {
    const detail = (got.error as { detail?: unknown } | undefined)?.detail;
    const { status } = got.response;
    throw new Refusal(typeof detail === 'string' ? sentence(detail) : `The server answered ${status}.`, status);
  }
  return got.data as T;
}

/** What the server says within a sentence, as one of its own. */
export function sentence(text: string): string {
  const first = text.charAt(0).toUpperCase() + text.slice(1);
  return /[.?]$/.test(first) ? first : `${first}.`;
}

/** Send a request that the server itself has named, as the steps of the plan do. */
export async function send<T>({ method, path, body }: StepRequest): Promise<T> {
  const asked = async () => {
    const response = await fetch(path, {
      method,
      headers: body ? { 'Content-Type': 'application/json' } : undefined,
      body: body ? JSON.stringify(body) : undefined,
    });
    const said: unknown = await response.json().catch(() => undefined);
    return response.ok ? { data: said, response } : { error: said ?? {}, response };
  };
  return settled<T>(asked());
}
