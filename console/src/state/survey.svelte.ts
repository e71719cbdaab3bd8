import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';

const LOOK_MS = 400;
type Survey = Schemas['SurveyOut'];

/** An account's survey: the last one that is kept, or one that is being made, whose lines come one by one. */
export class SurveyWatch {
	survey = $state.raw<Survey | null>(null);
	fault = $state.raw<FaultBody | null>(null);
	running = $derived(this.survey !== null && this.survey.finished_at === null);
	#ordering = $state(false);
	#turn = 0;
	#next: ReturnType<typeof setTimeout> | undefined;

	constructor(readonly ended: (name: string) => void = () => {}) {}

	get busy(): boolean {
		return this.#ordering || this.running;
	}

	/** The newest survey, when there is one; one that still runs is followed. */
	async load(name: string): Promise<void> {
		const turn = this.#begin();
		this.survey = null;
		try {
			const found = await done(api.GET('/api/v1/accounts/{name}/survey', { params: { path: { name } } }));
			if (turn === this.#turn) this.#take(found, turn);
		} catch (reason) {
			const fault = faultOf(reason);
			if (turn === this.#turn && fault?.code !== 'not-found') this.fault = fault;
		}
	}

	async order(name: string, accept = false): Promise<void> {
		const turn = this.#begin();
		this.#ordering = true;
		try {
			const begun = await done(
				api.POST('/api/v1/accounts/{name}/check', {
					params: { path: { name } },
					body: { accept_identity: accept, wait_seconds: 0 },
				}),
			);
			if (turn === this.#turn) this.#take(begun, turn);
		} catch (reason) {
			if (turn === this.#turn) this.fault = faultOf(reason);
		} finally {
			if (turn === this.#turn) this.#ordering = false;
		}
	}

	stop(): void {
		this.#turn += 1;
		clearTimeout(this.#next);
	}

	#begin(): number {
		this.stop();
		this.fault = null;
		return this.#turn;
	}

	#take(found: Survey, turn: number): void {
		this.survey = found;
		if (found.finished_at === null) this.#next = setTimeout(() => void this.#follow(found, turn), LOOK_MS);
	}

	async #follow(before: Survey, turn: number): Promise<void> {
		try {
			const found = await done(
				api.GET('/api/v1/accounts/{name}/survey', {
					params: { path: { name: before.account }, query: { id: before.id } },
				}),
			);
			if (turn !== this.#turn) return;
			this.fault = null;
			this.#take(found, turn);
			if (found.finished_at !== null) this.ended(found.account);
		} catch (reason) {
			if (turn !== this.#turn) return;
			// A service that starts anew goes on with the survey: so does the page.
			this.fault = faultOf(reason);
			if (this.fault?.retryable) this.#next = setTimeout(() => void this.#follow(before, turn), LOOK_MS * 4);
		}
	}
}
