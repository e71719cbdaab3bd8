<script lang="ts">
	import { STATE_WORDS, type LegOut } from '../lib/legs';

	/** The seven legs in one line: how far a job is, at a glance; the words are for readers and on touch. */
	let { legs }: { legs: LegOut[] } = $props();
	const now = $derived(
		legs.find((l) => l.state === 'waiting' || l.state === 'failed') ??
			legs.find((l) => l.state === 'running'),
	);
	const said = $derived(
		now
			? `${now.name} ${STATE_WORDS[now.state]}`
			: `${legs.filter((l) => l.state === 'done').length} of ${legs.length} legs done`,
	);
</script>

<span class="gauge" role="img" aria-label={said}>
	{#each legs as leg (leg.name)}
		<span class="notch {leg.state}" title="{leg.name}: {STATE_WORDS[leg.state]}"></span>
	{/each}
</span>

<style>
	/* Notches of a tide gauge: the higher the further; what is under way pulses only where motion is welcome. */
	.gauge {
		display: inline-flex;
		align-items: flex-end;
		gap: 3px;
		height: 1.1rem;
		border-bottom: 2px solid var(--edge);
		padding: 0 2px;
	}
	.notch {
		width: 6px;
		height: 22%;
		background: var(--edge);
		opacity: 0.55;
	}
	.done {
		height: 100%;
		background: var(--rest);
		opacity: 1;
	}
	.running,
	.waiting {
		height: 62%;
		background: var(--act);
		opacity: 1;
	}
	.waiting {
		background: var(--heed);
	}
	.failed,
	.cut-off {
		height: 62%;
		background: repeating-linear-gradient(0deg, var(--fail) 0 3px, transparent 3px 5px);
		opacity: 1;
	}
	.undone {
		height: 62%;
		background: none;
		border: 1.5px solid var(--edge);
		opacity: 1;
	}
	.not-needed {
		visibility: hidden;
	}
	@media (prefers-reduced-motion: no-preference) {
		.running {
			animation: breathe 1.6s ease-in-out infinite alternate;
		}
	}
	@keyframes breathe {
		from {
			height: 40%;
		}
		to {
			height: 90%;
		}
	}
</style>
