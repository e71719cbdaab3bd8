<script lang="ts">
	import Fault from '../parts/Fault.svelte';
	import Head from '../parts/Head.svelte';
	import JobLine from '../parts/JobLine.svelte';
	import LineState from '../parts/LineState.svelte';
	import Question from '../parts/Question.svelte';
	import { ago, counted } from '../lib/say';
	import { p } from '../router';
	import { Today } from '../state/today.svelte';

	const today = new Today();
	$effect(() => today.start());

	const steps = $derived([
		{
			done: today.accounts > 0,
			title: 'Add a hosting account',
			text: "Where its files go, which address shows them, and the panel that makes databases. The host's welcome letter has all of it.",
			href: p('/accounts/new'),
			more: today.accounts ? counted(today.accounts, 'account') : '',
		},
		{
			done: today.releases > 0,
			title: 'Check in a release',
			text: 'The archive of an application, as its makers publish it. It is read and hashed once and used as often as you like.',
			href: p('/shelf'),
			more: today.releases ? counted(today.releases, 'release') : '',
		},
		{
			done: false,
			title: 'Plan the first install',
			text: 'You see everything it would do before it does anything, and how to do the same by hand.',
			href: p('/jobs/new'),
			more: '',
		},
	]);
	const next = $derived(steps.findIndex((s) => !s.done));
</script>

<Head title="Today">
	{#snippet aside()}
		{#if today.known && !today.fresh}
			<p class="quiet small">
				{counted(today.accounts, 'account')}, {counted(today.releases, 'release')} on the shelf
			</p>
		{/if}
	{/snippet}
</Head>
<LineState state={today.line.state} />
{#if today.fault}<Fault fault={today.fault} again={() => void today.load()} />{/if}

{#if today.fresh}
	<section aria-labelledby="first">
		<h2 id="first">Three steps to the first installation</h2>
		<ol class="steps">
			{#each steps as step, index (step.title)}
				<li class:done={step.done} class:next={index === next}>
					<span class="number" aria-hidden="true">{step.done ? '✓' : index + 1}</span>
					<div>
						<h3>
							<a href={step.href}>{step.title}</a>
							{#if step.done}<span class="small quiet">done, {step.more}</span>{/if}
						</h3>
						<p class="quiet">{step.text}</p>
					</div>
				</li>
			{/each}
		</ol>
	</section>
{:else if today.known}
	{#if today.waiting.length}
		<section aria-labelledby="waiting">
			<h2 id="waiting">Waiting for you</h2>
			<div class="stack">
				{#each today.waiting as job (job.id)}
					<div>
						<JobLine {job} />
						{#if job.question}
							<Question question={job.question} answer={(text) => today.answer(job, text)} />
						{/if}
					</div>
				{/each}
			</div>
		</section>
	{/if}
	{#if today.failed.length}
		<section aria-labelledby="failed">
			<h2 id="failed">Went wrong in the last three days</h2>
			<div class="stack close">
				{#each today.failed as job (job.id)}<JobLine {job} />{/each}
			</div>
			{#if today.failedTotal > today.failed.length}
				<p class="small"><a href={p('/jobs', { search: { state: 'failed' } })}>All {today.failedTotal}</a></p>
			{/if}
		</section>
	{/if}
	{#if today.wrong.length}
		<section aria-labelledby="wrong">
			<h2 id="wrong">Seen to be wrong when they were looked at again</h2>
			<ul class="lately">
				{#each today.wrong as one (one.id)}
					<li>
						<a href={p('/installations/:id', { params: { id: one.id } })}>{one.application} {one.version}</a>
						<span><span class="quiet">on</span> {one.account}</span>
						<span
							>{one.rechecked?.seen
								.filter((s) => s.state === 'wrong')
								.map((s) => s.name)
								.join(', ')}</span
						>
						<span class="small quiet when">{ago(one.rechecked?.at ?? one.created_at)}</span>
					</li>
				{/each}
			</ul>
			{#if today.wrongTotal > today.wrong.length}
				<p class="small quiet">and {today.wrongTotal - today.wrong.length} more</p>
			{/if}
		</section>
	{/if}
	<section aria-labelledby="running">
		<h2 id="running">Under way</h2>
		{#if today.running.length}
			<div class="stack close">
				{#each today.running as job (job.id)}<JobLine {job} />{/each}
			</div>
			{#if today.openTotal > today.open.length}
				<p class="small"><a href={p('/jobs')}>{today.openTotal} jobs are open; all of them</a></p>
			{/if}
		{:else}
			<p class="quiet">Nothing runs just now. <a href={p('/jobs/new')}>Plan an install</a></p>
		{/if}
	</section>
	<section aria-labelledby="lately">
		<h2 id="lately">Installed lately</h2>
		{#if today.lately.length}
			<ul class="lately">
				{#each today.lately as one (one.id)}
					<li>
						<a href={p('/installations/:id', { params: { id: one.id } })}>{one.application} {one.version}</a>
						<span><span class="quiet">on</span> {one.account}</span>
						<span class="code">{one.address}</span>
						<span class="small quiet when">{ago(one.created_at)}</span>
					</li>
				{/each}
			</ul>
			<p class="small"><a href={p('/installations')}>All installations</a></p>
		{:else}
			<p class="quiet">Nothing stands yet.</p>
		{/if}
	</section>
{:else if !today.fault}
	<p class="quiet">Looking…</p>
{/if}

<style>
	section {
		margin-bottom: 1.9rem;
	}
	h2 {
		margin-bottom: 0.5rem;
	}
	.stack {
		display: grid;
		gap: 1rem;
	}
	.close {
		gap: 0;
	}
	.close > :global(* + *) {
		border-top: 0;
	}
	.lately {
		background: var(--card);
		border: 1px solid var(--line);
	}
	.lately li {
		display: grid;
		grid-template-columns: minmax(9rem, 1fr) minmax(6rem, 0.6fr) minmax(0, 2fr) auto;
		gap: 0.1rem 1rem;
		align-items: baseline;
		padding: 0.45rem 0.9rem;
		border-bottom: 1px solid var(--line);
	}
	.lately li:last-child {
		border-bottom: 0;
	}
	.lately + p {
		margin-top: 0.4rem;
	}
	.steps {
		display: grid;
		gap: 0;
		max-width: 46rem;
		margin-top: 0.4rem;
		border-left: 3px solid var(--line);
	}
	.steps li {
		display: grid;
		grid-template-columns: 2rem 1fr;
		gap: 0.8rem;
		padding: 0.8rem 0 0.8rem 1rem;
	}
	.steps .next {
		border-left: 3px solid var(--act);
		margin-left: -3px;
		background: var(--card);
	}
	.number {
		font-size: 1.35rem;
		font-weight: 700;
		line-height: 1.2;
		color: var(--soft);
		text-align: right;
	}
	.next .number {
		color: var(--act);
	}
	.done .number {
		color: var(--well);
	}
	@media (max-width: 620px) {
		.lately li {
			grid-template-columns: 1fr auto;
		}
		.lately .code {
			grid-column: 1 / -1;
		}
		.when {
			grid-row: 1;
			grid-column: 2;
		}
	}
</style>
