<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import { p } from '../router';
	import Fault from './Fault.svelte';

	/** What was seen when the installation was looked at last, and a look anew. */
	let { one, again }: { one: Schemas['InstallationOut']; again: () => Promise<void> } = $props();
	const ENDED = ['done', 'failed', 'cancelled'];
	const MARKS = { right: 'right', wrong: 'wrong', unknown: 'not seen' } as const;
	let looking = $state('');
	let fault = $state.raw<FaultBody | null>(null);
	const seen = $derived(one.rechecked?.seen ?? []);
	const wrong = $derived(seen.filter((s) => s.state === 'wrong').length);
	const stands = $derived(!one.taken_back && !one.replaced_by);

	const USUAL: [number, string][] = [
		[0, 'never'],
		[6, 'every 6 hours'],
		[24, 'once a day'],
		[168, 'once a week'],
	];
	const own = $derived(one.recheck_hours ?? 0);
	const choices = $derived(
		USUAL.some(([hours]) => hours === own)
			? USUAL
			: [...USUAL, [own, `every ${own} hours`] as [number, string]],
	);

	async function every(hours: string): Promise<void> {
		fault = null;
		try {
			const params = { path: { number: one.id } };
			await done(
				api.PUT('/api/v1/installations/{number}/schedule', { params, body: { hours: Number(hours) } }),
			);
			await again();
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	async function look(): Promise<void> {
		fault = null;
		try {
			let job = await done(
				api.POST('/api/v1/installations/{number}/recheck', { params: { path: { number: one.id } } }),
			);
			looking = job.id;
			while (!ENDED.includes(job.state)) {
				await new Promise((on) => setTimeout(on, 400));
				job = await done(api.GET('/api/v1/jobs/{job_id}', { params: { path: { job_id: job.id } } }));
			}
			await again();
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			looking = '';
		}
	}
</script>

<section class="card-paper" aria-labelledby="recheck">
	<div class="top">
		<div>
			<h2 id="recheck">Looked at again</h2>
			<p class="small quiet">
				{#if looking}
					Looking; <a href={p('/jobs/:id', { params: { id: looking } })}>the job</a> tells what it sees.
				{:else if one.rechecked}
					{momentOf(one.rechecked.at)}: {wrong ? `${wrong} of ${seen.length} are wrong` : 'nothing is wrong'}
				{:else}
					Never since it was proven. Everything that was proven is looked at once more; nothing is changed.
				{/if}
			</p>
		</div>
		{#if stands}
			<label class="small by"
				>by itself
				<select
					value={String(one.recheck_hours ?? 0)}
					onchange={(event) => void every(event.currentTarget.value)}
				>
					{#each choices as [hours, word] (hours)}<option value={String(hours)}>{word}</option>{/each}
				</select>
			</label>
			<button class="btn btn-lesser" type="button" disabled={!!looking} onclick={() => void look()}
				>{looking ? 'Looking…' : 'Look again'}</button
			>
		{/if}
	</div>
	{#if fault}<Fault {fault} />{/if}
	{#if seen.length}
		<ul>
			{#each seen as what, index (index)}
				<li class={what.state}>
					<strong>{what.name}</strong> <span class="word">{MARKS[what.state]}</span>
					<p class="small">{what.told}</p>
				</li>
			{/each}
		</ul>
	{/if}
</section>

<style>
	.top {
		display: flex;
		flex-wrap: wrap;
		justify-content: space-between;
		align-items: start;
		gap: 0.6rem;
	}
	.by {
		margin-left: auto;
		align-self: center;
	}
	ul {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(20rem, 100%), 1fr));
		gap: 0.5rem 1.2rem;
		margin-top: 0.7rem;
	}
	li {
		border-left: 3px solid var(--line);
		padding-left: 0.7rem;
		overflow-wrap: anywhere;
	}
	li.wrong {
		border-color: var(--fail);
	}
	.word {
		color: var(--soft);
		font-size: 0.8125rem;
	}
	.wrong .word {
		color: var(--fail);
		font-weight: 600;
	}
</style>
