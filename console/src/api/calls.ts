// The service's operations, typed by its own document; every refusal becomes a `Fault`.
import createClient, { type Middleware } from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type FaultBody = Schemas['Fault'];

/** What the service said no with; the same text that the command line shows. */
export class Fault extends Error {
	constructor(
		readonly body: FaultBody,
		readonly status: number,
	) {
		super(body.message);
	}
}

export const UNREACHABLE: FaultBody = {
	code: 'service-unreachable',
	message: 'The service does not answer.',
	hint: 'It may be starting anew; what was typed is kept. Try again in a moment.',
	retryable: true,
	context: {},
};

/** Goes into requests that change something; set at sign-in. */
export const secret = { csrf: '' };

/** Called when the service no longer knows this browser. */
export const gone = { tell: () => {} };

const guard: Middleware = {
	onRequest({ request }) {
		if (request.method !== 'GET' && secret.csrf) request.headers.set('X-High-Shelf', secret.csrf);
		return request;
	},
};

export const api = createClient<paths>({ baseUrl: location.origin });
api.use(guard);

interface Answer<T> {
	data?: T;
	error?: unknown;
	response: Response;
}

/** The answer's data. Throws Fault, also when no answer came. */
export async function done<T>(asked: Promise<Answer<T>>): Promise<T> {
	let answer: Answer<T>;
	try {
		answer = await asked;
	} catch (reason) {
		if (reason instanceof DOMException && reason.name === 'AbortError') throw reason;
		throw new Fault(UNREACHABLE, 0);
	}
	if (answer.error !== undefined || !answer.response.ok) {
		const fault = new Fault(asFault(answer.error, answer.response.status), answer.response.status);
		if (fault.status === 401 && fault.body.code === 'sign-in') gone.tell();
		throw fault;
	}
	return answer.data as T;
}

export function asFault(body: unknown, status: number): FaultBody {
	if (typeof body === 'object' && body !== null && 'code' in body && 'message' in body)
		return body as FaultBody;
	return {
		code: 'fault',
		message: `The service answered with status ${status}.`,
		hint: 'Its log has more.',
		retryable: false,
		context: {},
	};
}

/** The fault in whatever was thrown; null when the asking itself was called off. */
export function faultOf(reason: unknown): FaultBody | null {
	if (reason instanceof Fault) return reason.body;
	if (reason instanceof DOMException && reason.name === 'AbortError') return null;
	return { code: 'fault', message: String(reason), hint: '', retryable: false, context: {} };
}
