// A job's legs as people follow them: the service says how far each is, the events tell what happened. Pure.
import type { Schemas } from '../api/calls';

export type JobEvent = Schemas['EventOut'];
export type Job = Schemas['JobOut'];
export type LegOut = Schemas['LegOut'];

export const ABOUT: Record<LegOut['name'], string> = {
	survey: 'looks at the account',
	place: 'brings the files over',
	database: 'makes the database',
	configure: 'tries the database login',
	walk: 'goes through the installer',
	tidy: 'clears up',
	prove: 'looks whether it works',
	undo: 'takes back what was done',
};

/** What a kind of job does, beside what it is about; and what is said when it is done. */
export const KIND_WORDS: Record<string, { what: string; done: string }> = {
	install: { what: '', done: 'It stands.' },
	undo: { what: 'taking it back', done: 'It is taken back.' },
	remove: { what: 'removing what was kept', done: 'It is removed.' },
	restore: { what: 'bringing it back', done: 'It stands again.' },
	recheck: { what: 'looking at it again', done: 'It was looked at again.' },
	'make-database': { what: 'making it', done: 'The database is made.' },
	'add-database': { what: 'filing its login', done: 'Its login works, and is filed.' },
	'try-database': { what: 'trying its login', done: 'Its login works from the host.' },
	import: { what: 'filling it from a dump', done: 'The database is filled.' },
	export: { what: 'taking a copy', done: 'The copy is taken.' },
	'drop-database': { what: 'dropping it', done: 'The database is dropped.' },
};

/** Whether a job is about a database for itself, not about an installation. */
export const isAboutDatabase = (job: Pick<Job, 'kind'>): boolean =>
	!['install', 'undo', 'remove', 'restore', 'recheck'].includes(job.kind);

export const STATE_WORDS: Record<LegOut['state'], string> = {
	'to-come': 'to come',
	running: 'under way',
	waiting: 'waits for you',
	resting: 'rests',
	done: 'done',
	failed: 'failed',
	'cut-off': 'cut off',
	undone: 'taken back',
	'not-reached': 'not reached',
	'not-needed': 'not needed',
};

export const JOB_WORDS: Record<string, string> = {
	queued: 'in line',
	running: 'under way',
	waiting: 'waits for you',
	paused: 'rests',
	undoing: 'being taken back',
	done: 'done',
	failed: 'failed',
	cancelled: 'cancelled',
};

/** What is being carried or counted just now; the rate is in bytes a second, 0 when not known. */
export interface Progress {
	done: number;
	of: number;
	unit: 'bytes' | 'files';
	rate: number;
	/** Beside the bytes, where files go over one by one. */
	files?: number;
	ofFiles?: number;
}

export interface Leg extends LegOut {
	lines: JobEvent[];
	progress: Progress | null;
	startedAt: string | null;
	endedAt: string | null;
}

export const isEnded = (job: Pick<Job, 'state'>): boolean =>
	['done', 'failed', 'cancelled'].includes(job.state);

const isPassing = (event: JobEvent): boolean =>
	(typeof event.data.bytes === 'number' && typeof event.data.of === 'number') ||
	(typeof event.data.of_files === 'number' && event.kind === 'note');

/** The seven legs, each with what was told of it. */
export function legsOf(job: Job, events: JobEvent[]): Leg[] {
	return (job.legs ?? []).map((leg) => {
		const own = events.filter((e) => e.leg === leg.name);
		const moving = leg.state === 'running' || leg.state === 'waiting';
		return {
			...leg,
			lines: own.filter((e) => e.kind !== 'leg' && e.text && !isPassing(e)),
			progress: leg.state === 'running' ? progressOf(own) : null,
			startedAt: own[0]?.at ?? null,
			endedAt: moving ? null : (own.findLast((e) => e.kind !== 'undo')?.at ?? null),
		};
	});
}

/** The progress that the last event tells, if it is one that passes. */
export function progressOf(own: JobEvent[]): Progress | null {
	const last = own[own.length - 1];
	if (last === undefined || !isPassing(last)) return null;
	const { bytes, of, files, of_files } = last.data as Record<string, number | undefined>;
	const told = (last.data as Record<string, number | undefined>).rate;
	const count = files !== undefined && of_files ? { files, ofFiles: of_files } : {};
	if (bytes !== undefined && of)
		return { done: bytes, of, unit: 'bytes', rate: told ?? rateOf(own), ...count };
	if (files !== undefined && of_files) return { done: files, of: of_files, unit: 'files', rate: 0 };
	return null;
}

/** Bytes a second over the last few tellings. */
function rateOf(own: JobEvent[]): number {
	const recent = own.filter((e) => typeof e.data.of === 'number').slice(-5);
	const first = recent[0];
	const last = recent[recent.length - 1];
	if (!first || !last || first === last) return 0;
	const seconds = (new Date(last.at).getTime() - new Date(first.at).getTime()) / 1000;
	return seconds > 0 ? ((last.data.bytes as number) - (first.data.bytes as number)) / seconds : 0;
}
