import { describe, expect, it } from 'vitest';
import { ago, bytes, counted, lasted } from './say';

describe('how numbers and times are said', () => {
	it.each([
		[0, '0 B'],
		[999, '999 B'],
		[1234, '1.2 kB'],
		[45_600, '46 kB'],
		[10_400_000, '10.4 MB'],
		[2_000_000_000, '2.0 GB'],
	])('%i bytes', (count, said) => expect(bytes(count)).toBe(said));

	it('counts one and many', () => {
		expect(counted(1, 'file')).toBe('1 file');
		expect(counted(5600, 'file')).toBe('5,600 files');
		expect(counted(2, 'entry', 'entries')).toBe('2 entries');
	});

	it.each([
		[-50, '0.0 s'],
		[4350, '4.3 s'],
		[59_000, '59 s'],
		[125_000, '2 min 5 s'],
		[7_260_000, '2 h 1 min'],
	])('%i ms', (time, said) => expect(lasted(time)).toBe(said));

	it('says how long ago', () => {
		const now = Date.UTC(2026, 10, 23, 12);
		expect(ago(new Date(now - 20_000).toISOString(), now)).toBe('just now');
		expect(ago(new Date(now - 60_000).toISOString(), now)).toBe('1 minute ago');
		expect(ago(new Date(now - 3 * 3_600_000).toISOString(), now)).toBe('3 hours ago');
		expect(ago(new Date(now - 30 * 3_600_000).toISOString(), now)).toBe('yesterday');
		expect(ago(new Date(now - 9 * 86_400_000).toISOString(), now)).toBe('14 Nov 2026');
	});
});
