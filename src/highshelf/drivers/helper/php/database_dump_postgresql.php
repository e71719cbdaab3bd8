/** PostgreSQL: types, sequences and tables first, then the rows, then everything that refers to them. */
function dump_postgresql(PDO $link, $cursor): array
{
    $started = microtime(true);
    $own = " n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname NOT LIKE 'pg\\_toast%'";
    $tables = dump_all($link, "SELECT c.oid, c.oid::regclass::text FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind = 'r' AND" . $own . ' ORDER BY n.nspname, c.relname');
    $text = '';
    $rows = 0;
    if ($cursor === null) {
        $text = "SET client_encoding = 'UTF8';\nSET standard_conforming_strings = on;\nSET check_function_bodies = false;\nSET TIME ZONE 'UTC';\n" . dump_postgresql_first($link, $own, $tables);
        $cursor = ['table' => $tables ? $tables[0][1] : null, 'last' => null];
    }
    while ($cursor['table'] !== null) {
        $at = array_search($cursor['table'], array_column($tables, 1), true);
        if ($at === false) {
            break;
        }
        $columns = [];
        foreach (dump_all($link, "SELECT attname FROM pg_attribute WHERE attrelid = " . (int) $tables[$at][0] . " AND attnum > 0 AND NOT attisdropped"
            . " AND attgenerated = '' ORDER BY attnum") as $column) {
            // As text: what PostgreSQL writes of a value is what it reads.
            $columns[] = [$column[0], dump_name($column[0], '"') . '::text', 'text'];
        }
        $key = array_column(dump_all($link, 'SELECT a.attname FROM pg_index i CROSS JOIN LATERAL unnest(i.indkey) WITH ORDINALITY AS k(attnum, place)'
            . ' JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = k.attnum WHERE i.indisprimary AND i.indrelid = ' . (int) $tables[$at][0] . ' ORDER BY k.place'), 0);
        if ($columns) {
            $into = 'INSERT INTO ' . $tables[$at][1] . ' (' . dump_names(array_column($columns, 0), '"') . ") OVERRIDING SYSTEM VALUE VALUES\n";
            $came = dump_rows($link, $tables[$at][1], $columns, $key, '"', $cursor['last'], $into, $started + DUMP_SLICE_SECONDS, DUMP_SLICE_BYTES - strlen($text));
        } else {
            $came = ['', null, 0];
        }
        $text .= $came[0];
        $rows += $came[2];
        $cursor = $came[1] !== null
            ? ['table' => $tables[$at][1], 'last' => $came[1]]
            : ['table' => isset($tables[$at + 1]) ? $tables[$at + 1][1] : null, 'last' => null];
        if (strlen($text) >= DUMP_SLICE_BYTES || microtime(true) - $started > DUMP_SLICE_SECONDS) {
            return [$text, $cursor, $rows];
        }
    }
    return [$text . dump_postgresql_rest($link, $own), null, $rows];
}

/** What no extension brought. */
function dump_not_brought(string $oid): string
{
    return " AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = " . $oid . " AND d.deptype = 'e')";
}

function dump_postgresql_first(PDO $link, string $own, array $tables): string
{
    $text = '';
    foreach (dump_all($link, "SELECT n.nspname FROM pg_namespace n WHERE n.nspname NOT LIKE 'pg\\_%' AND n.nspname NOT IN ('information_schema', 'public')") as $one) {
        $text .= 'CREATE SCHEMA ' . dump_name($one[0], '"') . ";\n";
    }
    foreach (dump_all($link, "SELECT t.oid::regtype::text, string_agg(quote_literal(e.enumlabel), ', ' ORDER BY e.enumsortorder) FROM pg_type t"
            . " JOIN pg_enum e ON e.enumtypid = t.oid JOIN pg_namespace n ON n.oid = t.typnamespace WHERE" . $own . dump_not_brought('t.oid') . ' GROUP BY t.oid') as $one) {
        $text .= 'CREATE TYPE ' . $one[0] . ' AS ENUM (' . $one[1] . ");\n";
    }
    foreach (dump_all($link, "SELECT t.oid::regtype::text, format_type(t.typbasetype, t.typtypmod), t.typnotnull::int, t.typdefault,"
            . " (SELECT string_agg(pg_get_constraintdef(c.oid), ' ') FROM pg_constraint c WHERE c.contypid = t.oid)"
            . " FROM pg_type t JOIN pg_namespace n ON n.oid = t.typnamespace WHERE t.typtype = 'd' AND" . $own . dump_not_brought('t.oid')) as $one) {
        $text .= 'CREATE DOMAIN ' . $one[0] . ' AS ' . $one[1] . ($one[3] === null ? '' : ' DEFAULT ' . $one[3]) . ($one[2] ? ' NOT NULL' : '') . ($one[4] === null ? '' : ' ' . $one[4]) . ";\n";
    }
    foreach (dump_all($link, "SELECT pg_get_functiondef(p.oid) FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace"
            . " WHERE p.prokind IN ('f', 'p') AND" . $own . dump_not_brought('p.oid') . ' ORDER BY p.oid') as $one) {
        $text .= $one[0] . ";\n";
    }
    // Those of identity columns come with their tables.
    foreach (dump_all($link, "SELECT c.oid::regclass::text, format_type(s.seqtypid, NULL), s.seqstart, s.seqincrement, s.seqmin, s.seqmax, s.seqcache, s.seqcycle::int"
            . " FROM pg_sequence s JOIN pg_class c ON c.oid = s.seqrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE" . $own . dump_not_brought('c.oid')
            . " AND NOT EXISTS (SELECT 1 FROM pg_depend i WHERE i.objid = c.oid AND i.deptype = 'i')") as $one) {
        $text .= 'CREATE SEQUENCE ' . $one[0] . ' AS ' . $one[1] . ' START ' . $one[2] . ' INCREMENT ' . $one[3] . ' MINVALUE ' . $one[4] . ' MAXVALUE ' . $one[5] . ' CACHE ' . $one[6] . ($one[7] ? ' CYCLE' : '') . ";\n";
    }
    foreach ($tables as $table) {
        $lines = [];
        foreach (dump_all($link, "SELECT a.attname, format_type(a.atttypid, a.atttypmod), a.attnotnull::int, pg_get_expr(d.adbin, d.adrelid), a.attidentity, a.attgenerated,"
            . " (SELECT c.collname FROM pg_collation c WHERE c.oid = a.attcollation AND c.collname <> 'default') FROM pg_attribute a LEFT"
            . " JOIN pg_attrdef d ON d.adrelid = a.attrelid AND d.adnum = a.attnum"
            . ' WHERE a.attrelid = ' . (int) $table[0] . ' AND a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attnum') as $one) {
            $line = '  ' . dump_name($one[0], '"') . ' ' . $one[1] . ($one[6] === null ? '' : ' COLLATE ' . dump_name($one[6], '"'));
            if ($one[5] !== '') {
                $line .= ' GENERATED ALWAYS AS (' . $one[3] . ') STORED';
            } elseif ($one[4] !== '') {
                $line .= ' GENERATED ' . ($one[4] === 'a' ? 'ALWAYS' : 'BY DEFAULT') . ' AS IDENTITY';
            } elseif ($one[3] !== null) {
                $line .= ' DEFAULT ' . $one[3];
            }
            $lines[] = $line . ($one[2] ? ' NOT NULL' : '');
        }
        $text .= 'CREATE TABLE ' . $table[1] . " (\n" . implode(",\n", $lines) . "\n);\n";
    }
    return $text;
}

function dump_postgresql_rest(PDO $link, string $own): string
{
    $text = '';
    foreach (dump_all($link, "SELECT c.oid::regclass::text, s.last_value, c.oid::regclass::text FROM pg_sequences s"
            . " JOIN pg_namespace n ON n.nspname = s.schemaname JOIN pg_class c ON c.relname = s.sequencename AND c.relnamespace = n.oid WHERE s.last_value IS NOT NULL AND" . $own) as $one) {
        $text .= 'SELECT setval(' . $link->quote($one[0]) . ', ' . $one[1] . ");\n";
    }
    foreach (dump_all($link, "SELECT c.oid::regclass::text, t.oid::regclass::text, a.attname FROM pg_depend d JOIN pg_class c ON c.oid = d.objid"
            . " AND c.relkind = 'S' JOIN pg_class t ON t.oid = d.refobjid JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum = d.refobjsubid"
            . " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE d.deptype = 'a' AND d.classid = 'pg_class'::regclass AND" . $own) as $one) {
        $text .= 'ALTER SEQUENCE ' . $one[0] . ' OWNED BY ' . $one[1] . '.' . dump_name($one[2], '"') . ";\n";
    }
    // What other tables refer to is there before they do.
    foreach (dump_all($link, "SELECT c.conrelid::regclass::text, c.conname, pg_get_constraintdef(c.oid) FROM pg_constraint c"
            . " JOIN pg_namespace n ON n.oid = c.connamespace WHERE c.conrelid <> 0 AND c.contype IN ('p', 'u', 'c', 'x', 'f')"
            . " AND c.conislocal AND" . $own . " ORDER BY c.contype = 'f', c.contype <> 'p', c.oid") as $one) {
        $text .= 'ALTER TABLE ' . $one[0] . ' ADD CONSTRAINT ' . dump_name($one[1], '"') . ' ' . $one[2] . ";\n";
    }
    foreach (dump_all($link, "SELECT pg_get_indexdef(i.indexrelid) FROM pg_index i JOIN pg_class c ON c.oid = i.indrelid"
            . " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind = 'r' AND NOT EXISTS (SELECT 1 FROM pg_constraint k"
            . " WHERE k.conindid = i.indexrelid AND k.contype IN ('p', 'u', 'x')) AND" . $own . ' ORDER BY i.indexrelid') as $one) {
        $text .= $one[0] . ";\n";
    }
    foreach (dump_all($link, "SELECT c.oid::regclass::text, c.relkind, pg_get_viewdef(c.oid) FROM pg_class c"
            . " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('v', 'm') AND" . $own . dump_not_brought('c.oid') . ' ORDER BY c.oid') as $one) {
        $text .= 'CREATE ' . ($one[1] === 'm' ? 'MATERIALIZED VIEW ' : 'VIEW ') . $one[0] . " AS\n" . rtrim($one[2], "; \n") . ";\n";
    }
    foreach (dump_all($link, "SELECT pg_get_triggerdef(t.oid) FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid"
            . " JOIN pg_namespace n ON n.oid = c.relnamespace WHERE NOT t.tgisinternal AND" . $own . ' ORDER BY t.oid') as $one) {
        $text .= $one[0] . ";\n";
    }
    return $text;
}
