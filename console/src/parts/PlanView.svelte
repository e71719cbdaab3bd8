<script lang="ts">
	import type { Snippet } from 'svelte';
	import { bytes } from '../lib/say';
	import type { Plan } from '../state/plan.svelte';

	/** A plan as it is read: where, what is there, what it asks, what it does leg by leg, and how by hand. */
	let { plan, children }: { plan: Plan; children?: Snippet } = $props();
	const DATABASES: Record<string, string> = { none: 'none', mariadb: 'MariaDB', postgresql: 'PostgreSQL' };
	const SHOWN = 24;
	const about = (seconds: number): string =>
		seconds < 90 ? `about ${Math.max(1, Math.round(seconds))} s` : `about ${Math.round(seconds / 60)} min`;
	const legs = $derived([...new Set(plan.acts.map((a) => a.leg))]);
</script>

<dl>
	<dt>There now</dt>
	<dd>{plan.there}</dd>
	<dt>It touches</dt>
	<dd>
		{#if plan.touches.length}
			{plan.touches.slice(0, SHOWN).join(', ')}{#if plan.touches.length > SHOWN}
				and {plan.touches.length - SHOWN} more{/if}
		{:else}nothing that is there already{/if}
	</dd>
	<dt>Goes over</dt>
	<dd>
		<span class="code">{plan.way.name}</span>, {about(plan.way.seconds ?? 0)}: {plan.way
			.reason}{#if plan.pace_bytes}; at most {bytes(plan.pace_bytes)} a second{/if}
		{#if (plan.ways ?? []).length > 1}
			<p class="small quiet">
				If the host refuses that: {(plan.ways ?? [])
					.slice(1)
					.map((w) => `${w.name} (${about(w.seconds ?? 0)})`)
					.join(', ')}
			</p>
		{/if}
	</dd>
	<dt>Database</dt>
	<dd>{DATABASES[plan.database] ?? plan.database}</dd>
	<dt>It will ask</dt>
	<dd>
		{#if plan.asks?.length}
			<ul class="asks">
				{#each plan.asks as one (one.value)}<li>{one.text}</li>{/each}
			</ul>
		{:else}nothing that is known now; everything has a default{/if}
	</dd>
</dl>
{#if plan.forbids?.length}
	<div class="forbids" role="note">
		<p><strong>The install is bound to fail.</strong></p>
		<ul>
			{#each plan.forbids as need (need)}<li>{need}</li>{/each}
		</ul>
	</div>
{/if}
{#if plan.warnings.length}
	<ul class="heed">
		{#each plan.warnings as warning (warning)}<li>{warning}</li>{/each}
	</ul>
{/if}
{@render children?.()}
<h3>What it would do</h3>
<ol class="acts">
	{#each legs as leg (leg)}
		<li>
			<span class="leg">{leg}</span>
			<div class="does">
				{#each plan.acts.filter((a) => a.leg === leg) as act (act.what)}
					<p>{act.what}</p>
					<p class="hand"><span class="sr-only">By hand: </span>{act.by_hand}</p>
				{/each}
			</div>
		</li>
	{/each}
</ol>
<p class="small quiet key">Below each: how you would do it by hand.</p>

<style>
	dl {
		display: grid;
		grid-template-columns: 6.5rem minmax(0, 1fr);
		gap: 0.28rem 1rem;
	}
	dt {
		color: var(--soft);
	}
	dd {
		overflow-wrap: anywhere;
	}
	.asks {
		list-style: none;
	}
	.heed {
		border-left: 4px solid var(--heed);
		padding: 0.2rem 0.8rem;
		margin: 0.8rem 0;
		display: grid;
		gap: 0.25rem;
		overflow-wrap: anywhere;
	}
	.forbids {
		border-left: 4px solid var(--fail);
		padding: 0.2rem 0.8rem;
		margin: 0.8rem 0;
		overflow-wrap: anywhere;
	}
	.forbids ul {
		list-style: none;
		display: grid;
		gap: 0.25rem;
	}
	h3 {
		margin: 0.9rem 0 0.3rem;
	}
	.acts li {
		display: grid;
		grid-template-columns: 6.5rem minmax(0, 1fr);
		gap: 0 1rem;
		padding: 0.3rem 0;
		border-top: 1px solid var(--line);
	}
	.leg {
		font-weight: 640;
		color: var(--rest);
	}
	.does {
		overflow-wrap: anywhere;
	}
	.hand {
		color: var(--soft);
		font-size: 0.8125rem;
		padding-left: 0.9rem;
		border-left: 2px solid var(--line);
		margin-bottom: 0.25rem;
	}
	@media (max-width: 480px) {
		dl,
		.acts li {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
