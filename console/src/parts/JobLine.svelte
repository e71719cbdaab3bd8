<script lang="ts">
	import { isAboutDatabase, KIND_WORDS, type Job } from '../lib/legs';
	import { ago } from '../lib/say';
	import { p } from '../router';
	import Gauge from './Gauge.svelte';
	import State from './State.svelte';

	/** A job in one line of a page. */
	let { job }: { job: Job } = $props();
	const failed = $derived(job.state === 'failed' ? String(job.error?.message ?? '') : '');
</script>

<div class="line">
	<Gauge legs={job.legs ?? []} />
	<div class="what">
		<p>
			<a href={p('/jobs/:id', { params: { id: job.id } })}>{job.application}</a>
			<span class="quiet">on</span>
			{job.account}{#if KIND_WORDS[job.kind]?.what}<span class="quiet">, {KIND_WORDS[job.kind]?.what}</span
				>{/if}
			{#if !isAboutDatabase(job)}<span class="quiet">at</span> <span class="code">{job.address}</span>{/if}
		</p>
		<p class="small quiet told">
			{failed ||
				(job.latest && job.state !== 'waiting'
					? `${job.latest.leg}: ${job.latest.text}`
					: job.state === 'queued'
						? 'in line behind another job of this account'
						: '')}
		</p>
	</div>
	<div class="end">
		<State state={job.state} />
		<span class="small quiet">{ago(job.finished_at ?? job.created_at)}</span>
	</div>
</div>

<style>
	.line {
		display: grid;
		grid-template-columns: auto minmax(0, 1fr) auto;
		gap: 0.2rem 1rem;
		align-items: center;
		padding: 0.55rem 0.9rem;
		background: var(--card);
		border: 1px solid var(--line);
	}
	.what {
		min-width: 0;
		overflow-wrap: anywhere;
	}
	.told {
		display: -webkit-box;
		-webkit-box-orient: vertical;
		-webkit-line-clamp: 2;
		line-clamp: 2;
		overflow: hidden;
	}
	.end {
		display: grid;
		justify-items: end;
	}
	@media (max-width: 620px) {
		.line {
			grid-template-columns: auto 1fr;
		}
		.what {
			grid-column: 1 / -1;
			grid-row: 2;
		}
	}
</style>
