<script lang="ts" module>
	export interface Column {
		name: string;
		title: string;
		/** What the service sorts by; without it the column cannot be sorted by. */
		sort?: string;
		wide?: boolean;
		right?: boolean;
	}
</script>

<script lang="ts" generics="T">
	import type { Snippet } from 'svelte';
	import type { List } from '../state/list.svelte';
	import { counted } from '../lib/say';
	import Fault from './Fault.svelte';

	interface Given {
		list: List<T>;
		columns: Column[];
		usual: string;
		what: string;
		find: string;
		key: (item: T) => string;
		cell: Snippet<[T, string]>;
		empty?: Snippet;
		tools?: Snippet;
		filtered?: boolean;
	}
	let { list, columns, usual, what, find, key, cell, empty, tools, filtered = false }: Given = $props();
	const id = $props.id();
	const sorted = $derived(list.sort || usual);
	const direction = (column: Column): 'ascending' | 'descending' | 'none' =>
		sorted === column.sort ? 'ascending' : sorted === `-${column.sort}` ? 'descending' : 'none';
	const blank = $derived(!list.loading && !list.fault && list.total === 0 && !list.q && !filtered);
</script>

{#if blank && empty}
	{@render empty()}
{:else}
	<div class="tools">
		<div class="find">
			<label class="sr-only" for={id}>{find}</label>
			<input
				{id}
				class="field"
				type="search"
				placeholder={find}
				value={list.q}
				oninput={(event) => list.find(event.currentTarget.value)}
			/>
		</div>
		{@render tools?.()}
		<p class="count" aria-live="polite">{list.loading ? 'looking…' : counted(list.total, what)}</p>
	</div>
	{#if list.fault}<Fault fault={list.fault} again={() => void list.load()} />{/if}
	{#if list.items.length}
		<!-- On a phone the table becomes a stack: the roles are said so that readers still hear a table. -->
		<!-- svelte-ignore a11y_no_redundant_roles -->
		<table role="table">
			<thead role="rowgroup">
				<tr role="row">
					{#each columns as column (column.name)}
						<th
							scope="col"
							role="columnheader"
							class:wide={column.wide}
							class:right={column.right}
							aria-sort={column.sort ? direction(column) : undefined}
						>
							{#if column.sort}
								<button type="button" onclick={() => list.sortBy(column.sort ?? '')}>
									{column.title}{#if direction(column) !== 'none'}<span class="way" aria-hidden="true"
											>{direction(column) === 'ascending' ? '▴' : '▾'}</span
										>{/if}
								</button>
							{:else}{column.title}{/if}
						</th>
					{/each}
				</tr>
			</thead>
			<tbody role="rowgroup">
				{#each list.items as item (key(item))}
					<tr role="row">
						{#each columns as column (column.name)}
							<td role="cell" data-title={column.title} class:right={column.right}
								>{@render cell(item, column.name)}</td
							>
						{/each}
					</tr>
				{/each}
			</tbody>
		</table>
	{:else if !list.loading && !list.fault}
		<p class="none">Nothing fits{list.q ? ` “${list.q}”` : ''}.</p>
	{/if}
	{#if list.pages > 1}
		<nav class="pages" aria-label="Pages of the list">
			<button
				class="btn btn-small btn-lesser"
				type="button"
				disabled={list.page === 0}
				onclick={() => void list.turnTo(list.page - 1)}
			>
				Earlier
			</button>
			<span>{list.page + 1} of {list.pages}</span>
			<button
				class="btn btn-small btn-lesser"
				type="button"
				disabled={list.page + 1 >= list.pages}
				onclick={() => void list.turnTo(list.page + 1)}
			>
				Further
			</button>
		</nav>
	{/if}
{/if}

<style>
	.tools {
		display: flex;
		flex-wrap: wrap;
		gap: 0.6rem 0.9rem;
		align-items: center;
		margin-bottom: 0.6rem;
	}
	.find {
		flex: 0 1 20rem;
	}
	.count {
		margin-left: auto;
		color: var(--soft);
		font-size: 0.8125rem;
	}
	table {
		width: 100%;
		border-collapse: collapse;
		background: var(--card);
		border: 1px solid var(--line);
	}
	th {
		text-align: left;
		font-weight: 620;
		font-size: 0.8125rem;
		color: var(--soft);
		border-bottom: 2px solid var(--line);
		padding: 0.35rem 0.7rem;
		white-space: nowrap;
	}
	th button {
		font: inherit;
		color: inherit;
		padding: 0.1rem 0;
	}
	th button:hover {
		color: var(--ink);
		text-decoration: underline;
	}
	.way {
		display: inline-block;
		width: 1em;
		text-align: center;
	}
	td {
		padding: 0.45rem 0.7rem;
		border-bottom: 1px solid var(--line);
		vertical-align: top;
		overflow-wrap: anywhere;
	}
	tr:last-child td {
		border-bottom: 0;
	}
	tbody tr:hover {
		background: color-mix(in oklab, var(--act) 5%, transparent);
	}
	.wide {
		width: 40%;
	}
	.right {
		text-align: right;
		font-variant-numeric: tabular-nums;
	}
	.none {
		padding: 1.6rem 0;
		color: var(--soft);
	}
	.pages {
		display: flex;
		gap: 0.8rem;
		align-items: center;
		margin-top: 0.7rem;
		font-size: 0.875rem;
	}
	@media (max-width: 700px) {
		thead {
			position: absolute;
			left: -99rem;
		}
		table,
		tbody,
		tr,
		td {
			display: block;
			text-align: left;
		}
		tr {
			padding: 0.5rem 0;
			border-bottom: 1px solid var(--line);
		}
		tr:last-child {
			border-bottom: 0;
		}
		td {
			border: 0;
			padding: 0.1rem 0.8rem 0.1rem 7.2rem;
			position: relative;
			min-height: 1.4em;
		}
		td::before {
			content: attr(data-title);
			position: absolute;
			left: 0.8rem;
			color: var(--soft);
			font-size: 0.8125rem;
		}
		.find {
			flex: 1 1 100%;
		}
		.right {
			text-align: left;
		}
	}
</style>
