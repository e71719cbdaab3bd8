import { describe, expect, it } from 'vitest';
import { isEnded, legsOf, progressOf, type Job, type JobEvent } from './legs';

let number = 0;
const event = (
	leg: string,
	text: string,
	data: JobEvent['data'] = {},
	kind = 'note',
	second = 0,
): JobEvent => ({
	id: ++number,
	job: 'j',
	at: new Date(Date.UTC(2026, 10, 23, 10, 0, second)).toISOString(),
	leg,
	kind,
	text,
	data,
});
const job = (legs: NonNullable<Job['legs']>): Job => ({ state: 'running', legs }) as unknown as Job;

describe('the legs of a job', () => {
	it('keeps what was told of each leg and leaves out what only passes', () => {
		const [place, database] = legsOf(
			job([
				{ name: 'place', state: 'running', acts_done: 1, acts: 6 },
				{ name: 'database', state: 'to-come', acts_done: 0, acts: 3 },
			]),
			[
				event('place', 'place', {}, 'leg'),
				event('place', 'holding folder made', { act: 'hold' }, 'act'),
				event('place', '1.0 of 4.0 MB', { bytes: 1e6, of: 4e6 }, 'note', 1),
				event('place', '3.0 of 4.0 MB', { bytes: 3e6, of: 4e6 }, 'note', 2),
			],
		);
		expect(place?.lines.map((l) => l.text)).toEqual(['holding folder made']);
		expect(place?.progress).toEqual({ done: 3e6, of: 4e6, unit: 'bytes', rate: 2e6 });
		expect(place?.endedAt).toBeNull();
		expect(database?.lines).toEqual([]);
		expect(database?.startedAt).toBeNull();
	});

	it('shows no progress once something else was told', () => {
		const events = [
			event('place', '', { bytes: 4, of: 4 }),
			event('place', 'brought over', { act: 'carry' }, 'act'),
		];
		expect(progressOf(events)).toBeNull();
		expect(progressOf([])).toBeNull();
	});

	it('counts files where a helper unpacks in slices', () => {
		expect(progressOf([event('place', '', { act: 'unpack', files: 30, of_files: 90 })])).toEqual({
			done: 30,
			of: 90,
			unit: 'files',
			rate: 0,
		});
	});

	it('does not count taking back as part of what a leg took', () => {
		const [walk] = legsOf(job([{ name: 'walk', state: 'failed', acts_done: 0, acts: 1 }]), [
			event('walk', 'pressed', {}, 'note', 5),
			event('walk', 'no way on', {}, 'error', 8),
			event('walk', 'taken back', {}, 'undo', 20),
		]);
		expect(walk?.endedAt).toContain('10:00:08');
		expect(walk?.lines).toHaveLength(3);
	});

	it('knows which states are final', () => {
		expect(['done', 'failed', 'cancelled'].every((state) => isEnded({ state }))).toBe(true);
		expect(['queued', 'running', 'waiting', 'undoing'].some((state) => isEnded({ state }))).toBe(false);
	});
});
