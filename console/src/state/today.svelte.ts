import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
import type { Job } from '../lib/legs';
import { daysAgo } from '../lib/say';
import { LiveLine, type Told } from './live.svelte';

export type Installation = Schemas['InstallationOut'];

const OPEN = ['queued', 'running', 'waiting', 'paused', 'undoing'] as const;
const FAILED_DAYS = 3;
const SOON_MS = 120;
const LATER_MS = 900;

/** What needs somebody today, what is under way, and what was done. */
export class Today {
	open: Job[] = $state.raw([]);
	openTotal = $state(0);
	failed: Job[] = $state.raw([]);
	failedTotal = $state(0);
	lately: Installation[] = $state.raw([]);
	wrong: Installation[] = $state.raw([]);
	wrongTotal = $state(0);
	accounts = $state(0);
	releases = $state(0);
	jobs = $state(0);
	known = $state(false);
	fault: FaultBody | null = $state.raw(null);
	readonly line = new LiveLine(
		'/api/v1/watch',
		(event) => this.#hear(event),
		() => void this.load(),
	);
	readonly waiting: Job[] = $derived(this.open.filter((j) => j.state === 'waiting'));
	readonly running: Job[] = $derived(this.open.filter((j) => j.state !== 'waiting'));
	#soon: ReturnType<typeof setTimeout> | undefined;
	#due = 0;

	start(): () => void {
		void this.load();
		this.line.start();
		return () => {
			this.line.stop();
			clearTimeout(this.#soon);
		};
	}

	get fresh(): boolean {
		return this.known && this.jobs === 0;
	}

	async load(): Promise<void> {
		this.#due = 0;
		const since = daysAgo(FAILED_DAYS);
		try {
			const [open, failed, lately, wrong, accounts, releases, jobs] = await Promise.all([
				done(api.GET('/api/v1/jobs', { params: { query: { state: [...OPEN], limit: 50 } } })),
				done(
					api.GET('/api/v1/jobs', {
						params: { query: { state: ['failed'], since, limit: 10, sort: '-ended' } },
					}),
				),
				done(api.GET('/api/v1/installations', { params: { query: { limit: 8 } } })),
				done(api.GET('/api/v1/installations', { params: { query: { limit: 8, wrong: true } } })),
				done(api.GET('/api/v1/accounts', { params: { query: { limit: 1 } } })),
				done(api.GET('/api/v1/releases', { params: { query: { limit: 1 } } })),
				done(api.GET('/api/v1/jobs', { params: { query: { limit: 1 } } })),
			]);
			this.open = open.items;
			this.openTotal = open.total;
			this.failed = failed.items;
			this.failedTotal = failed.total;
			this.lately = lately.items.filter((one) => !one.taken_back && !one.replaced_by);
			this.wrong = wrong.items;
			this.wrongTotal = wrong.total;
			this.accounts = accounts.total;
			this.releases = releases.total;
			this.jobs = jobs.total;
			this.known = true;
			this.fault = null;
		} catch (reason) {
			const fault = faultOf(reason);
			if (!this.known || fault?.code !== 'service-unreachable') this.fault = fault;
		}
	}

	async answer(job: Job, text: string): Promise<void> {
		if (!job.question) return;
		await done(
			api.POST('/api/v1/jobs/{job_id}/answer', {
				params: { path: { job_id: job.id } },
				body: { question: job.question.id, answer: text },
			}),
		);
		await this.load();
	}

	#hear(event: Told): void {
		if (event.kind !== 'state' && event.kind !== 'leg') {
			this.open = this.open.map((j) => (j.id === event.job ? { ...j, latest: event } : j));
		}
		this.#loadIn(['state', 'question', 'answer'].includes(event.kind) ? SOON_MS : LATER_MS);
	}

	#loadIn(wait: number): void {
		const due = Date.now() + wait;
		if (this.#due && this.#due <= due) return;
		this.#due = due;
		clearTimeout(this.#soon);
		this.#soon = setTimeout(() => void this.load(), wait);
	}
}
