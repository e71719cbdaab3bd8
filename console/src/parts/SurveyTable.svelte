<script lang="ts">
	import type { Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import { counted, grouped } from '../lib/survey';
	import Fault from './Fault.svelte';

	/** One survey: every line with how it was found out. Grows while the survey runs. */
	let { survey }: { survey: Schemas['SurveyOut'] } = $props();
	const id = $props.id();
	let only = $state(false);
	const count = $derived(counted(survey.lines));
	const shown = $derived(only ? survey.lines.filter((line) => line.state !== 'fine') : survey.lines);
	const running = $derived(survey.finished_at === null);
</script>

<div class="top">
	<p aria-live="polite">
		{#if running}
			{survey.state === 'queued' ? 'Waiting for its turn…' : `Looking: ${survey.lines.length} lines so far…`}
		{:else}
			{survey.lines.length} lines{#if count.bad}, <strong class="bad"
					>{count.bad}
					{count.bad === 1 ? 'stops' : 'stop'} jobs</strong
				>{/if}{#if count.heed}, <strong class="heed">{count.heed} to heed</strong>{/if}{#if count.unknown}, {count.unknown}
				not known{/if}
			<span class="small quiet">{momentOf(survey.finished_at ?? survey.started_at)}</span>
		{/if}
	</p>
	{#if count.bad + count.heed + count.unknown}
		<label class="only" for={id}>
			<input {id} type="checkbox" class="checkbox" bind:checked={only} />
			only what is not plainly well
		</label>
	{/if}
</div>
{#if survey.fault}<div class="fault"><Fault fault={survey.fault} /></div>{/if}
{#if survey.left.length}
	<div class="left">
		<p>
			<strong>Still on the host</strong>, taken away as soon as it can be reached; a new check tries at once:
		</p>
		<ul>
			{#each survey.left as path (path)}<li class="code">{path}</li>{/each}
		</ul>
	</div>
{/if}
{#if shown.length}
	<!-- On a phone the table becomes a stack: the roles are said so that readers still hear a table. -->
	<!-- svelte-ignore a11y_no_redundant_roles -->
	<table role="table">
		<thead role="rowgroup">
			<tr role="row">
				<th scope="col" role="columnheader">What</th>
				<th scope="col" role="columnheader">Found</th>
				<th scope="col" role="columnheader">How</th>
			</tr>
		</thead>
		{#each grouped(shown) as group, index (index)}
			<tbody role="rowgroup">
				<tr role="row" class="group">
					<th scope="rowgroup" role="rowheader" colspan="3">{group.name}</th>
				</tr>
				{#each group.lines as line (line.topic)}
					<tr role="row" class={line.state}>
						<th scope="row" role="rowheader">{line.title}</th>
						<td role="cell" class="found">
							{#if line.state === 'heed'}<span class="sr-only">to heed: </span>{/if}
							{#if line.state === 'bad'}<span class="mark-word">stops jobs</span>{/if}
							{line.text}
						</td>
						<td role="cell" class="how">{line.how}</td>
					</tr>
				{/each}
			</tbody>
		{/each}
	</table>
{/if}

<style>
	.top {
		display: flex;
		flex-wrap: wrap;
		gap: 0.3rem 1.4rem;
		justify-content: space-between;
		margin-bottom: 0.5rem;
	}
	.only {
		display: flex;
		gap: 0.45rem;
		align-items: center;
		font-size: 0.875rem;
	}
	.heed {
		color: var(--heed);
	}
	.bad {
		color: var(--fail);
	}
	.fault,
	.left {
		margin-bottom: 0.7rem;
	}
	.left {
		border-left: 4px solid var(--heed);
		padding: 0.1rem 0.8rem;
		overflow-wrap: anywhere;
	}
	table {
		width: 100%;
		border-collapse: collapse;
		background: var(--card);
		border: 1px solid var(--line);
	}
	thead {
		position: absolute;
		left: -99rem;
	}
	th,
	td {
		text-align: left;
		vertical-align: top;
		padding: 0.26rem 0.8rem;
		font-weight: 400;
		overflow-wrap: anywhere;
		color: inherit;
	}
	tbody tr:not(.group) + tr {
		border-top: 1px solid var(--line);
	}
	.group th {
		font-weight: 660;
		padding-top: 0.7rem;
		border-bottom: 2px solid var(--line);
	}
	tr:not(.group) > th {
		width: 11.5rem;
		color: var(--soft);
	}
	td.how {
		width: 30%;
		color: var(--soft);
		font-size: 0.8125rem;
	}
	.mark-word {
		font-weight: 660;
		margin-right: 0.35rem;
	}
	tr.heed .found,
	tr.bad .found {
		font-weight: 620;
	}
	tr.bad .mark-word {
		color: var(--fail);
	}
	tr.heed > :first-child,
	tr.bad > :first-child {
		box-shadow: inset 3px 0 var(--heed);
	}
	tr.bad > :first-child {
		box-shadow: inset 3px 0 var(--fail);
	}
	tr.unknown .found {
		color: var(--soft);
	}
	tr.heed,
	tr.bad {
		color: var(--ink);
	}
	@media (max-width: 700px) {
		table,
		tbody,
		tr,
		td,
		th {
			display: block;
		}
		tr:not(.group) > th,
		td.how {
			width: auto;
		}
		tr:not(.group) {
			padding: 0.3rem 0;
		}
		tr.heed,
		tr.bad {
			box-shadow: inset 3px 0 var(--heed);
		}
		tr.bad {
			box-shadow: inset 3px 0 var(--fail);
		}
		tr.heed > :first-child,
		tr.bad > :first-child {
			box-shadow: none;
		}
		th,
		td {
			padding: 0.02rem 0.8rem;
		}
		.group th {
			padding: 0.8rem 0.8rem 0.1rem;
		}
	}
</style>
