<script lang="ts">
	import { api, done } from '../api/calls';
	import { say } from '../lib/address';
	import { JOB_WORDS, KIND_WORDS, type Job } from '../lib/legs';
	import { lasted, momentOf } from '../lib/say';
	import Gauge from '../parts/Gauge.svelte';
	import Head from '../parts/Head.svelte';
	import State from '../parts/State.svelte';
	import Table from '../parts/Table.svelte';
	import { p } from '../router';
	import { List } from '../state/list.svelte';

	type Name = 'queued' | 'running' | 'waiting' | 'paused' | 'undoing' | 'done' | 'failed' | 'cancelled';
	const given = new URLSearchParams(location.search).get('state') ?? '';
	let wanted = $state(given in JOB_WORDS ? given : '');
	const id = $props.id();
	const list = new List<Job>((part) =>
		done(
			api.GET('/api/v1/jobs', {
				params: { query: { ...part, state: wanted ? [wanted as Name] : undefined } },
			}),
		),
	);
	void list.load();

	function choose(name: string): void {
		wanted = name;
		say({ state: name });
		void list.turnTo(0);
	}
	const took = (job: Job): string =>
		job.finished_at ? lasted(new Date(job.finished_at).getTime() - new Date(job.created_at).getTime()) : '';
</script>

<Head title="Jobs" help={['walk', 'How installers are walked']} />
<Table
	{list}
	usual="-started"
	what="job"
	find="Account, application or number"
	filtered={wanted !== ''}
	key={(job) => job.id}
	columns={[
		{ name: 'application', title: 'Application', sort: 'application' },
		{ name: 'account', title: 'Account', sort: 'account' },
		{ name: 'legs', title: 'Legs' },
		{ name: 'state', title: 'State', sort: 'state' },
		{ name: 'started', title: 'Started', sort: 'started' },
		{ name: 'took', title: 'Took', right: true },
	]}
>
	{#snippet tools()}
		<div class="state">
			<label class="sr-only" for={id}>State</label>
			<select {id} class="field" value={wanted} onchange={(event) => choose(event.currentTarget.value)}>
				<option value="">Every state</option>
				{#each Object.entries(JOB_WORDS) as [name, word] (name)}<option value={name}>{word}</option>{/each}
			</select>
		</div>
	{/snippet}
	{#snippet cell(job, column)}
		{#if column === 'application'}<a href={p('/jobs/:id', { params: { id: job.id } })}>{job.application}</a
			>{#if KIND_WORDS[job.kind]?.what}<span class="quiet small">, {KIND_WORDS[job.kind]?.what}</span>{/if}
		{:else if column === 'account'}<a href={p('/accounts/:name', { params: { name: job.account } })}
				>{job.account}</a
			>
		{:else if column === 'legs'}<Gauge legs={job.legs ?? []} />
		{:else if column === 'state'}<State state={job.state} />
		{:else if column === 'started'}{momentOf(job.created_at)}
		{:else}{took(job)}{/if}
	{/snippet}
	{#snippet empty()}
		<p class="quiet">No job ran yet. <a href={p('/jobs/new')}>Plan the first install</a></p>
	{/snippet}
</Table>

<style>
	.state {
		width: 11rem;
	}
</style>
