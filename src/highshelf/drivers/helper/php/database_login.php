/** The address of a database, as PDO wants it. */
function database_source(array $wanted): string
{
    $host = isset($wanted['host']) ? (string) $wanted['host'] : '';
    $port = isset($wanted['port']) ? (int) $wanted['port'] : 0;
    if (isset($wanted['kind']) && $wanted['kind'] === 'postgresql') {
        return 'pgsql:' . ($host === '' ? '' : 'host=' . $host . ';') . ($port > 0 ? 'port=' . $port . ';' : '') . 'dbname=' . $wanted['name'];
    }
    // Under this name the server is reached by its socket, whatever the port.
    return 'mysql:host=' . $host . ($host === 'localhost' ? '' : ';port=' . $port) . ';dbname=' . $wanted['name'] . ';charset=utf8mb4';
}

/**
 * Log in to a database from here; says what the server says and which tables are seen. Where `statements` are given they are
 * run one after the other, until the time of a slice is up: `ran` says how many were, and what is not `ok` failed at that one.
 * With `mark`, the name of a table, `from` is the number of the first of them: what was run is noted in that table together with
 * what it did, and what an earlier call has run is not run twice, whether or not its answer was heard.
 * With `rows` it says of each table how many rows it has and a checksum of them; those for which there was no time are left out.
 */
function database_login(array $wanted): array
{
    $postgresql = isset($wanted['kind']) && $wanted['kind'] === 'postgresql';
    $driver = $postgresql ? 'pgsql' : 'mysql';
    if (!class_exists('PDO') || !in_array($driver, PDO::getAvailableDrivers(), true)) {
        return ['ok' => false, 'error' => 'PHP here has no pdo_' . $driver];
    }
    $tables = $postgresql ? "SELECT tablename FROM pg_tables WHERE schemaname NOT IN ('pg_catalog', 'information_schema')" : 'SHOW TABLES';
    $mark = isset($wanted['mark']) && preg_match('/^hs_import_[0-9a-f]{8}$/', $wanted['mark']) ? $wanted['mark'] : '';
    $ran = 0;
    try {
        $link = new PDO(database_source($wanted), $wanted['user'], $wanted['password'], [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_TIMEOUT => 10]);
        if (!empty($wanted['clear'])) {
            database_clear($link, $postgresql, $link->query($tables)->fetchAll(PDO::FETCH_COLUMN), isset($wanted['keep']) ? $wanted['keep'] : []);
        }
        if (!empty($wanted['write'])) {
            $link->exec('CREATE TABLE hs_probe (n INT)');
            $link->exec('INSERT INTO hs_probe VALUES (1)');
            $link->query('SELECT n FROM hs_probe')->fetchAll();
            $link->exec('DROP TABLE hs_probe');
        }
        $started = microtime(true);
        foreach (isset($wanted['session']) ? $wanted['session'] : [] as $statement) {
            database_run($link, database_text($statement));
        }
        $statements = isset($wanted['statements']) ? $wanted['statements'] : [];
        if ($statements) {
            $from = isset($wanted['from']) ? (int) $wanted['from'] : 0;
            $noted = $mark === '' ? [0, 0] : database_marked($link, $postgresql, $mark);
            $ran = $mark === '' ? 0 : min(count($statements), max(0, $noted[0] - $from));
            database_statements($link, $postgresql, $mark, $from, $noted[1], $statements, $ran, $started + 8);
        }
        if (!empty($wanted['unmark']) && $mark !== '') {
            $link->exec('DROP TABLE IF EXISTS ' . $mark);
        }
        $seen = array_values(array_diff($link->query($tables)->fetchAll(PDO::FETCH_COLUMN), [$mark]));
        $rows = empty($wanted['rows']) ? [] : database_rows($link, $postgresql, $seen, $started + 8);
        $others = empty($wanted['others']) ? [] : database_others($link, $postgresql);
        $charset = $postgresql
            ? "SELECT pg_encoding_to_char(encoding) || ' ' || datcollate FROM pg_database WHERE datname = current_database()"
            : "SELECT CONCAT(@@character_set_database, ' ', @@collation_database)";
        $about = empty($wanted['about']) ? '' : (string) $link->query($charset)->fetchColumn();
        return ['rows' => $rows, 'others' => $others, 'about' => $about, 'ok' => true, 'version' => (string) $link->getAttribute(PDO::ATTR_SERVER_VERSION), 'tables' => $seen, 'ran' => $ran];
    } catch (PDOException $fault) {
        return ['ok' => false, 'error' => $fault->getMessage(), 'number' => isset($fault->errorInfo[1]) ? (int) $fault->errorInfo[1] : 0, 'ran' => $ran];
    }
}

/** Bytes that are no text come as hexadecimal digits, as the only member of an array. */
function database_text($statement): string
{
    return is_array($statement) ? (string) hex2bin((string) $statement[0]) : (string) $statement;
}

/** How many statements are known to have run, and the number of one that was begun and commits by itself, 0 for none. */
function database_marked(PDO $link, bool $postgresql, string $mark): array
{
    $link->exec('CREATE TABLE IF NOT EXISTS ' . $mark . ' (done BIGINT NOT NULL, begun BIGINT NOT NULL)' . ($postgresql ? '' : ' ENGINE=InnoDB'));
    $noted = $link->query('SELECT done, begun FROM ' . $mark)->fetch(PDO::FETCH_NUM);
    if ($noted === false) {
        $link->exec('INSERT INTO ' . $mark . ' VALUES (0, 0)');
        return [0, 0];
    }
    return [(int) $noted[0], (int) $noted[1]];
}

/** Run statements in one transaction; `ran` is counted up to the one that failed, or for which there was no time. */
function database_statements(PDO $link, bool $postgresql, string $mark, int $from, int $begun, array $statements, int &$ran, float $until): void
{
    // A commit for each row is what takes the time: one for all of them.
    $link->exec($postgresql ? 'BEGIN' : 'SET autocommit = 0');
    $first = $ran;
    while ($ran < count($statements) && ($ran === $first || microtime(true) < $until)) {
        $text = database_text($statements[$ran]);
        $number = $from + $ran + 1;
        // MariaDB commits before and after what makes or changes a table: the note of it cannot stand in the same transaction.
        $alone = $mark !== '' && !$postgresql && !preg_match('~^\s*(?:INSERT|REPLACE|SET|/\*!\d*\s*SET)\b~i', $text);
        if ($alone) {
            $link->exec('UPDATE ' . $mark . ' SET done = ' . ($number - 1) . ', begun = ' . $number);
        }
        try {
            database_run($link, $text);
        } catch (PDOException $fault) {
            // Begun by a call that was cut off, and done by it: such a table, column, key, routine or trigger is there.
            if ($begun !== $number || !in_array(isset($fault->errorInfo[1]) ? (int) $fault->errorInfo[1] : 0, [1050, 1060, 1061, 1068, 1091, 1304, 1359, 1826], true)) {
                throw $fault;
            }
        }
        $ran++;
        if ($alone) {
            $link->exec('UPDATE ' . $mark . ' SET done = ' . $number . ', begun = 0');
        }
    }
    if ($mark !== '') {
        $link->exec('UPDATE ' . $mark . ' SET done = ' . ($from + $ran) . ', begun = 0');
    }
    $link->exec('COMMIT');
}

/** What stands in a database beside its tables: for people, and for taking it away again: [what, name]. */
function database_others(PDO $link, bool $postgresql): array
{
    if ($postgresql) {
        return $link->query("SELECT 'FUNCTION', p.oid::regprocedure::text FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace"
            . " WHERE n.nspname NOT IN ('pg_catalog', 'information_schema') AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = p.oid AND d.deptype = 'e')"
            . " UNION ALL SELECT 'SEQUENCE', c.oid::regclass::text FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace"
            . " WHERE c.relkind = 'S' AND n.nspname NOT IN ('pg_catalog', 'information_schema')"
            . " AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = c.oid AND d.deptype IN ('a', 'i', 'e'))"
            . " UNION ALL SELECT CASE c.relkind WHEN 'm' THEN 'MATERIALIZED VIEW' ELSE 'VIEW' END, c.oid::regclass::text FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace"
            . " WHERE c.relkind IN ('v', 'm') AND n.nspname NOT IN ('pg_catalog', 'information_schema')"
            . " AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = c.oid AND d.deptype = 'e')"
            . " UNION ALL SELECT CASE t.typtype WHEN 'd' THEN 'DOMAIN' ELSE 'TYPE' END, t.oid::regtype::text FROM pg_type t JOIN pg_namespace n ON n.oid = t.typnamespace"
            . " WHERE t.typtype IN ('e', 'd') AND n.nspname NOT IN ('pg_catalog', 'information_schema')"
            . " AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = t.oid AND d.deptype = 'e')")->fetchAll(PDO::FETCH_NUM);
    }
    return $link->query("SELECT ROUTINE_TYPE, CONCAT('`', REPLACE(ROUTINE_NAME, '`', '``'), '`') FROM information_schema.ROUTINES WHERE ROUTINE_SCHEMA = DATABASE()"
        . " UNION ALL SELECT 'EVENT', CONCAT('`', REPLACE(EVENT_NAME, '`', '``'), '`') FROM information_schema.EVENTS WHERE EVENT_SCHEMA = DATABASE()")->fetchAll(PDO::FETCH_NUM);
}

/** Of each table its count of rows and a checksum of them: what says whether anything was written into it. */
function database_rows(PDO $link, bool $postgresql, array $tables, float $until): array
{
    $found = [];
    foreach ($tables as $table) {
        if (microtime(true) > $until) {
            break;
        }
        if ($postgresql) {
            $name = '"' . str_replace('"', '""', $table) . '"';
            $row = $link->query('SELECT COUNT(*), COALESCE(SUM(hashtext(t::text)::bigint), 0) FROM ' . $name . ' t')->fetch(PDO::FETCH_NUM);
            $found[$table] = [(int) $row[0], (string) $row[1]];
        } else {
            $name = '`' . str_replace('`', '``', $table) . '`';
            $count = $link->query('SELECT COUNT(*) FROM ' . $name)->fetchColumn();
            $sum = $link->query('CHECKSUM TABLE ' . $name)->fetch(PDO::FETCH_NUM);
            $found[$table] = [(int) $count, (string) $sum[1]];
        }
    }
    return $found;
}

/** One statement, with whatever it answers. */
function database_run(PDO $link, string $statement): void
{
    $answer = $link->query($statement);
    if ($answer !== false) {
        $answer->closeCursor();
    }
}

/** Take away every table again, and what stands beside them but for `keep`; what they were is what an import has made. */
function database_clear(PDO $link, bool $postgresql, array $tables, array $keep): void
{
    if (!$postgresql) {
        $link->exec('SET FOREIGN_KEY_CHECKS = 0');
    }
    foreach ($tables as $table) {
        $name = $postgresql ? '"' . str_replace('"', '""', $table) . '" CASCADE' : '`' . str_replace('`', '``', $table) . '`';
        $link->exec('DROP TABLE IF EXISTS ' . $name);
        // MariaDB passes a view over then, without an error.
        if (!$postgresql) {
            $link->exec('DROP VIEW IF EXISTS ' . $name);
        }
    }
    foreach (database_others($link, $postgresql) as $other) {
        if (in_array($other, $keep, false)) {
            continue;
        }
        $link->exec('DROP ' . $other[0] . ' IF EXISTS ' . $other[1] . ($postgresql ? ' CASCADE' : ''));
    }
}
