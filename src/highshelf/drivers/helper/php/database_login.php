/** The address of a database, as PDO wants it. */
function database_source(array $wanted): string
{
    $host = isset($wanted['host']) ? (string) $wanted['host'] : '';
    $port = isset($wanted['port']) ? (int) $wanted['port'] : 0;
    if (isset($wanted['kind']) && $wanted['kind'] === 'postgresql') {
        return 'pgsql:' . ($host === '' ? '' : 'host=' . $host . ';') . ($port > 0 ? 'port=' . $port . ';' : '') . 'dbname=' . $wanted['name'];
    }
    // Under this name the server is reached by its socket, whatever the port.
    return 'mysql:host=' . $host . ($host === 'localhost' ? '' : ';port=' . $port) . ';dbname=' . $wanted['name'];
}

/**
 * Log in to a database from here; says what the server says and which tables are seen. Where `statements` are given they are
 * run one after the other, until the time of a slice is up: `ran` says how many were, and what is not `ok` failed at that one.
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
    $ran = 0;
    try {
        $link = new PDO(database_source($wanted), $wanted['user'], $wanted['password'], [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_TIMEOUT => 10]);
        if (!empty($wanted['clear'])) {
            database_clear($link, $postgresql, $link->query($tables)->fetchAll(PDO::FETCH_COLUMN));
        }
        if (!empty($wanted['write'])) {
            $link->exec('CREATE TABLE hs_probe (n INT)');
            $link->exec('DROP TABLE hs_probe');
        }
        $started = microtime(true);
        foreach (isset($wanted['session']) ? $wanted['session'] : [] as $statement) {
            database_run($link, $statement);
        }
        $statements = isset($wanted['statements']) ? $wanted['statements'] : [];
        if ($statements) {
            // A commit for each row is what takes the time: one for all of them.
            $link->exec($postgresql ? 'BEGIN' : 'SET autocommit = 0');
        }
        foreach ($statements as $statement) {
            if ($ran > 0 && microtime(true) - $started > 8) {
                break;
            }
            database_run($link, $statement);
            $ran++;
        }
        if ($statements) {
            $link->exec('COMMIT');
        }
        $seen = $link->query($tables)->fetchAll(PDO::FETCH_COLUMN);
        $rows = empty($wanted['rows']) ? [] : database_rows($link, $postgresql, $seen, $started + 8);
        return ['rows' => $rows, 'ok' => true, 'version' => (string) $link->getAttribute(PDO::ATTR_SERVER_VERSION), 'tables' => $seen, 'ran' => $ran];
    } catch (PDOException $fault) {
        return ['ok' => false, 'error' => $fault->getMessage(), 'ran' => $ran];
    }
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

/** Take every table away again; what they were is what an import has made. */
function database_clear(PDO $link, bool $postgresql, array $tables): void
{
    if (!$postgresql) {
        $link->exec('SET FOREIGN_KEY_CHECKS = 0');
    }
    foreach ($tables as $table) {
        $name = $postgresql ? '"' . str_replace('"', '""', $table) . '" CASCADE' : '`' . str_replace('`', '``', $table) . '`';
        try {
            $link->exec('DROP TABLE IF EXISTS ' . $name);
        } catch (PDOException $fault) {
            $link->exec('DROP VIEW IF EXISTS ' . $name);
        }
    }
}

