import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';

/** A host's welcome letter: what stands in it, for somebody to look at. Nothing is kept by reading it. */
export class LetterReading {
	text = $state('');
	read = $state.raw<Schemas['LetterOut'] | null>(null);
	fault = $state.raw<FaultBody | null>(null);
	busy = $state(false);
	/** Counts readings: the form starts anew with each. */
	turn = $state(0);

	async look(): Promise<void> {
		this.busy = true;
		this.fault = null;
		try {
			this.read = await done(api.POST('/api/v1/accounts/letter', { body: { text: this.text } }));
			this.turn += 1;
		} catch (reason) {
			this.fault = faultOf(reason);
		} finally {
			this.busy = false;
		}
	}
}
