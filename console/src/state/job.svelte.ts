import { api, done, faultOf, type FaultBody } from '../api/calls';
import { isEnded, legsOf, type Job, type JobEvent, type Leg } from '../lib/legs';
import { LiveLine } from './live.svelte';

/** One job as it is followed: its state from the service, its events from the live line. */
export class JobView {
	job: Job | null = $state.raw(null);
	events: JobEvent[] = $state.raw([]);
	fault: FaultBody | null = $state.raw(null);
	busy = $state(false);
	readonly line: LiveLine;
	readonly legs: Leg[] = $derived.by(() => (this.job ? legsOf(this.job, this.events) : []));
	#asking = false;
	#askAgain = false;
	#heard: JobEvent[] = [];
	#frame = 0;

	constructor(readonly id: string) {
		const path = `/api/v1/jobs/${encodeURIComponent(id)}/events`;
		this.line = new LiveLine(
			path,
			(event) => this.#hear(event),
			() => void this.load(),
			0,
		);
	}

	get ended(): boolean {
		return this.job !== null && isEnded(this.job);
	}

	start(): () => void {
		void this.load().then(() => {
			if (this.job) this.line.start();
		});
		return () => {
			this.line.stop();
			cancelAnimationFrame(this.#frame);
		};
	}

	/** Ask for the job's state; asked once more when something was told meanwhile. */
	async load(): Promise<void> {
		if (this.#asking) {
			this.#askAgain = true;
			return;
		}
		this.#asking = true;
		try {
			do {
				this.#askAgain = false;
				this.job = await done(api.GET('/api/v1/jobs/{job_id}', { params: { path: { job_id: this.id } } }));
			} while (this.#askAgain);
			this.fault = null;
		} catch (reason) {
			// While the line is down its own notice says so.
			const fault = faultOf(reason);
			if (this.job === null || fault?.code !== 'service-unreachable') this.fault = fault;
		} finally {
			this.#asking = false;
		}
	}

	async answer(question: string, answer: string): Promise<void> {
		this.job = await done(
			api.POST('/api/v1/jobs/{job_id}/answer', {
				params: { path: { job_id: this.id } },
				body: { question, answer },
			}),
		);
	}

	async pause(): Promise<void> {
		await this.#ask(() => api.POST('/api/v1/jobs/{job_id}/pause', { params: { path: { job_id: this.id } } }));
	}

	async resume(): Promise<void> {
		await this.#ask(() =>
			api.POST('/api/v1/jobs/{job_id}/resume', { params: { path: { job_id: this.id } } }),
		);
	}

	/** What a button asks for; a refusal is shown where the page shows its faults. */
	async #ask(call: () => Parameters<typeof done<Job>>[0]): Promise<void> {
		try {
			this.job = await done(call());
			this.fault = null;
		} catch (reason) {
			this.fault = faultOf(reason);
		}
	}

	async cancel(): Promise<void> {
		this.job = await done(
			api.POST('/api/v1/jobs/{job_id}/cancel', { params: { path: { job_id: this.id } } }),
		);
	}

	/** Events come in bursts when a page is opened: they are shown a frame at a time. */
	#hear(event: JobEvent): void {
		this.#heard.push(event);
		if (this.#frame) return;
		this.#frame = requestAnimationFrame(() => {
			this.#frame = 0;
			const known = this.events[this.events.length - 1]?.id ?? 0;
			const fresh = this.#heard.filter((e) => e.id > known);
			this.#heard = [];
			this.events = [...this.events, ...fresh];
			if (fresh.some((e) => typeof e.data.of !== 'number')) void this.load();
		});
	}
}
