<script lang="ts">
	import { isAboutDatabase, KIND_WORDS } from '../lib/legs';
	import { lasted, momentOf, timeOf } from '../lib/say';
	import { JobView } from '../state/job.svelte';
	import { p } from '../router';
	import Confirm from './Confirm.svelte';
	import Fault from './Fault.svelte';
	import Gauge from './Gauge.svelte';
	import Head from './Head.svelte';
	import InstallerPages from './InstallerPages.svelte';
	import LineState from './LineState.svelte';
	import Question from './Question.svelte';
	import State from './State.svelte';
	import Timeline from './Timeline.svelte';

	let { id }: { id: string } = $props();
	// The page is made anew for another job.
	// svelte-ignore state_referenced_locally
	const view = new JobView(id);
	let now = $state(Date.now());
	let stop: Confirm | undefined = $state();
	let logged = $state(false);

	$effect(() => view.start());
	$effect(() => {
		if (view.ended) return;
		const ticking = setInterval(() => (now = Date.now()), 500);
		return () => clearInterval(ticking);
	});

	const job = $derived(view.job);
	const error = $derived(job?.error as { message?: string; hint?: string; leg?: string } | null | undefined);
	const took = $derived(
		job
			? lasted(
					(job.finished_at ? new Date(job.finished_at).getTime() : now) - new Date(job.created_at).getTime(),
				)
			: '',
	);
	const left = $derived((job?.acts ?? []).some((a) => ['done', 'intended', 'undo-failed'].includes(a.state)));
</script>

<Head title={job ? `${job.application} on ${job.account}` : `Job ${id}`} above="Jobs" up={p('/jobs')}>
	{#if job}
		<p class="where">
			{#if KIND_WORDS[job.kind]?.what}<span>{KIND_WORDS[job.kind]?.what}</span>{/if}
			{#if !isAboutDatabase(job)}
				<span class="code">{job.address}</span> <span class="quiet small">on the host {job.target}</span>
			{/if}
		</p>
	{/if}
	{#snippet aside()}
		{#if job}
			<span class="now" aria-live="polite"
				><Gauge legs={job.legs ?? []} />
				<State state={job.state} /> <span class="quiet small">{took}</span></span
			>
			{#if !view.ended && job.state !== 'undoing'}
				{#if job.paused}
					<button class="btn btn-act" type="button" onclick={() => void view.resume()}>Go on</button>
				{:else if !job.cancel_asked && !error}
					<button class="btn btn-lesser" type="button" onclick={() => void view.pause()}>Let it rest</button>
				{/if}
				<button class="btn btn-lesser" type="button" disabled={job.cancel_asked} onclick={() => stop?.ask()}>
					{job.cancel_asked ? 'Stopping…' : 'Cancel'}
				</button>
			{/if}
		{/if}
	{/snippet}
</Head>
<LineState state={view.line.state} />
{#if view.fault}<div class="gap"><Fault fault={view.fault} again={() => void view.load()} /></div>{/if}
{#if job}
	{#if job.question}
		<div class="gap">
			{#key job.question.id}<Question
					question={job.question}
					answer={(text) => view.answer(job.question?.id ?? '', text)}
				/>{/key}
		</div>
	{/if}
	{#if job.state === 'done'}
		<p class="gap ended well">
			{#if isAboutDatabase(job)}
				<strong>{KIND_WORDS[job.kind]?.done}</strong>
				<a href={p('/accounts/:name', { params: { name: job.account } })}>The databases of {job.account}</a>
			{:else if job.kind === 'recheck' || job.kind === 'restore'}
				<strong>{KIND_WORDS[job.kind]?.done}</strong>
				<a href={p('/installations/:id', { params: { id: job.installation } })}>What was seen</a>
			{:else if job.kind !== 'install'}
				<strong>{KIND_WORDS[job.kind]?.done}</strong>
				<a href={p('/installations/:id', { params: { id: job.installation } })}
					>What is left of it, if anything</a
				>
			{:else if job.installation}
				<strong>It stands.</strong> The administrator signed in.
				<a href={p('/installations/:id', { params: { id: job.installation } })}
					>The handover sheet: addresses and how to get in</a
				>
			{:else}
				<strong>It is done.</strong> What it installed was forgotten since.
			{/if}
		</p>
	{:else if error && job.state !== 'undoing'}
		<div class="gap">
			<Fault
				fault={{
					code: 'job',
					message: job.state === 'cancelled' ? 'Cancelled.' : `${error.leg}: ${error.message ?? ''}`,
					hint: error.hint ?? '',
					retryable: false,
					context: {},
				}}
			/>
			<p class="small quiet after">
				{#if isAboutDatabase(job)}
					{left ? 'Something was left as it is: the legs below say what.' : 'What it did was taken back.'}
					<a href={p('/accounts/:name', { params: { name: job.account } })}>The databases of {job.account}</a>
				{:else if job.kind !== 'install'}
					It stays where it stopped, and another one goes on from there:
					<a href={p('/installations/:id', { params: { id: job.installation } })}>the installation</a>
				{:else}
					{left
						? 'Something was left as it is: the legs below say what.'
						: 'Everything was taken back: the account is as it was.'}
					<a href={p('/jobs/new', { search: { account: job.account } })}>Plan it anew</a>
				{/if}
			</p>
		</div>
	{:else if job.state === 'undoing'}
		<p class="gap ended heed">
			<strong>Being taken back,</strong> the newest act first. {error?.message ?? ''}
		</p>
	{:else if job.cancel_asked}
		<p class="gap ended heed">
			<strong>Stopping.</strong>
			{job.kind === 'install' || isAboutDatabase(job)
				? 'No new byte within two seconds; then everything is taken back.'
				: 'It stays where it stops; another one goes on from there.'}
		</p>
	{:else if job.paused}
		<p class="gap ended heed">
			<strong>{job.state === 'paused' ? 'It rests.' : 'It comes to rest.'}</strong> No byte goes over; what is there
			stays, and it goes on from there.
		</p>
	{:else if job.state === 'queued'}
		<p class="gap ended heed">In line: one job at a time works on an account.</p>
	{/if}
	{#if job.outstanding?.length && view.ended}
		<p class="gap ended heed">
			Still on the host; remove it by hand: <span class="code">{job.outstanding.join(', ')}</span>
		</p>
	{/if}
	<Timeline legs={view.legs} {now} kind={job.kind} />
	{#if job.outstanding?.length && !view.ended}
		<p class="small quiet">
			On the host for the moment: <span class="code">{job.outstanding.join(', ')}</span>
		</p>
	{/if}
	{#if job.kind === 'install'}<InstallerPages job={job.id} ended={view.ended} />{/if}
	<details class="log" bind:open={logged}>
		<summary>Log, {view.events.length} lines</summary>
		{#if logged}
			<ol class="code">
				{#each view.events as event (event.id)}
					<li>
						<time datetime={event.at}>{timeOf(event.at)}</time>
						{event.leg || '·'}
						{event.kind}: {event.text}
					</li>
				{/each}
			</ol>
		{/if}
	</details>
	<p class="small quiet">
		Job <span class="code">{job.id}</span>, started {momentOf(job.created_at)}. In the terminal:
		<span class="code">highshelf job follow {job.id}</span>
	</p>
	<Confirm
		bind:this={stop}
		title="Cancel this job?"
		text="No new byte goes over within two seconds. Then what was done so far is taken back, and the account is as it was."
		word="Cancel the job"
		act={() => view.cancel()}
	/>
{:else if !view.fault}<p class="quiet">Looking…</p>{/if}

<style>
	.where {
		margin-top: 0.15rem;
	}
	.now {
		display: inline-flex;
		align-items: center;
		gap: 0.6rem;
	}
	.gap {
		margin-bottom: 1rem;
	}
	.after {
		margin-top: 0.4rem;
	}
	.ended {
		background: var(--card);
		padding: 0.6rem 0.9rem;
		overflow-wrap: anywhere;
	}
	.well {
		border-left: 4px solid var(--well);
	}
	.heed {
		border-left: 4px solid var(--heed);
	}
	.log {
		margin: 1rem 0 0.6rem;
	}
	summary {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		width: fit-content;
	}
	.log ol {
		max-height: 24rem;
		overflow: auto;
		background: var(--sunk);
		border: 1px solid var(--line);
		padding: 0.6rem 0.8rem;
		margin-top: 0.4rem;
		font-size: 0.8125rem;
	}
	.log li {
		overflow-wrap: anywhere;
	}
</style>
