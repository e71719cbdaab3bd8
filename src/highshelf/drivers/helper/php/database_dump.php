/*
 * A database as statements that make it anew, in slices: `cursor` says where to go on, null from the beginning. What comes back is
 * `text` (gzip), the next `cursor`, and `done`. Each slice sees the database at one moment, and each table is read in the order of
 * its primary key, where it has one.
 */
const DUMP_SLICE_SECONDS = 6;
const DUMP_SLICE_BYTES = 8388608;
const DUMP_ROW_BYTES = 131072;

function database_dump(array $wanted): array
{
    $postgresql = isset($wanted['kind']) && $wanted['kind'] === 'postgresql';
    $driver = $postgresql ? 'pgsql' : 'mysql';
    if (!class_exists('PDO') || !in_array($driver, PDO::getAvailableDrivers(), true)) {
        return ['ok' => false, 'error' => 'PHP here has no pdo_' . $driver];
    }
    try {
        $options = [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_TIMEOUT => 10, PDO::ATTR_STRINGIFY_FETCHES => true];
        $link = new PDO(database_source($wanted), $wanted['user'], $wanted['password'], $options);
        $link->exec($postgresql ? 'BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY' : 'SET time_zone = "+00:00", sql_mode = ""');
        if ($postgresql) {
            $link->exec("SET TIME ZONE 'UTC'; SET bytea_output = 'hex'; SET datestyle = 'ISO'; SET intervalstyle = 'iso_8601'; SET extra_float_digits = 3");
        } else {
            $link->setAttribute(PDO::MYSQL_ATTR_USE_BUFFERED_QUERY, false);
            $link->exec('START TRANSACTION WITH CONSISTENT SNAPSHOT');
        }
        $cursor = isset($wanted['cursor']) ? $wanted['cursor'] : null;
        $taken = $postgresql ? dump_postgresql($link, $cursor) : dump_mariadb($link, $cursor);
        return ['ok' => true, 'text' => gzencode($taken[0], 6), 'cursor' => $taken[1], 'done' => $taken[1] === null, 'rows' => $taken[2], 'unpacked' => strlen($taken[0])];
    } catch (PDOException $fault) {
        return ['ok' => false, 'error' => $fault->getMessage()];
    }
}

/** All rows of an answer, which is over then. */
function dump_all(PDO $link, string $question, int $how = PDO::FETCH_NUM): array
{
    $answer = $link->query($question);
    $rows = $answer->fetchAll($how);
    $answer->closeCursor();
    return $rows;
}

function dump_name(string $name, string $mark): string
{
    return $mark . str_replace($mark, $mark . $mark, $name) . $mark;
}

/** Names in quotation marks, with commas between. */
function dump_names(array $names, string $mark): string
{
    $quoted = [];
    foreach ($names as $name) {
        $quoted[] = dump_name($name, $mark);
    }
    return implode(', ', $quoted);
}

/**
 * Rows of one table from where the cursor stands, as statements of many rows each.
 * `columns` are [name, how it is read, how its value is written]; `key` the names of its primary key's columns, in order.
 * Returns the text, the last key or the number of rows passed (null at the end), and how many rows these are.
 */
function dump_rows(PDO $link, string $table, array $columns, array $key, string $mark, $last, string $into, float $until, int $most): array
{
    $places = [];
    foreach ($columns as $number => $column) {
        $places[$column[0]] = $number;
    }
    $where = '';
    if ($key && is_array($last)) {
        // After the last one, as an index can look it up: a >= 1 AND (a > 1 OR (a = 1 AND b > 2)).
        $parts = [];
        foreach ($key as $depth => $name) {
            $equal = '';
            for ($above = 0; $above < $depth; $above++) {
                $equal .= dump_name($key[$above], $mark) . ' = ' . $last[$above] . ' AND ';
            }
            $parts[] = '(' . $equal . dump_name($name, $mark) . ' > ' . $last[$depth] . ')';
        }
        $where = ' WHERE ' . dump_name($key[0], $mark) . ' >= ' . $last[0] . ' AND (' . implode(' OR ', $parts) . ')';
    }
    $order = $key ? ' ORDER BY ' . dump_names($key, $mark) : '';
    $passed = $key ? 0 : (int) $last;
    $question = 'SELECT ' . implode(', ', array_column($columns, 1)) . ' FROM ' . $table . $where . $order . ' LIMIT 5000' . ($passed ? ' OFFSET ' . $passed : '');
    $text = '';
    $count = 0;
    $size = 0;
    $end = true;
    $answer = $link->query($question);
    while (($row = $answer->fetch(PDO::FETCH_NUM)) !== false) {
        $values = [];
        foreach ($row as $number => $value) {
            $values[] = $value === null ? 'NULL' : dump_value($link, $value, $columns[$number][2]);
        }
        $line = '(' . implode(',', $values) . ')';
        $text .= ($size === 0 ? ($text === '' ? '' : ";\n") . $into : ",\n") . $line;
        $size += strlen($line);
        if ($size > DUMP_ROW_BYTES) {
            $size = 0;
        }
        $count++;
        foreach ($key as $depth => $name) {
            $there[$depth] = $values[$places[$name]];
        }
        if ($count === 5000 || strlen($text) > $most || microtime(true) > $until) {
            $end = false;
            break;
        }
    }
    $answer->closeCursor();
    $text .= $text === '' ? '' : ";\n";
    return [$text, $end ? null : ($key ? $there : $passed + $count), $count];
}

function dump_value(PDO $link, string $value, string $how): string
{
    if ($how === 'number') {
        return $value;
    }
    if ($how === 'bytes') {
        return $value === '' ? "''" : '0x' . bin2hex($value);
    }
    return $link->quote($value);
}

function dump_mariadb(PDO $link, $cursor): array
{
    $started = microtime(true);
    $tables = array_column(dump_all($link, "SHOW FULL TABLES WHERE Table_type = 'BASE TABLE'"), 0);
    $text = '';
    $rows = 0;
    if ($cursor === null) {
        $text = "SET NAMES utf8mb4;\nSET time_zone = '+00:00';\nSET FOREIGN_KEY_CHECKS = 0;\nSET UNIQUE_CHECKS = 0;\nSET sql_mode = 'NO_AUTO_VALUE_ON_ZERO';\n";
        $cursor = ['table' => $tables ? $tables[0] : null, 'last' => null, 'begun' => false];
    }
    while ($cursor['table'] !== null) {
        $table = $cursor['table'];
        $quoted = dump_name($table, '`');
        if (!$cursor['begun']) {
            $made = dump_all($link, 'SHOW CREATE TABLE ' . $quoted);
            $text .= "\n" . $made[0][1] . ";\n";
        }
        $columns = [];
        foreach (dump_all($link, 'SHOW COLUMNS FROM ' . $quoted, PDO::FETCH_ASSOC) as $column) {
            // What the server makes of other columns is not given to it.
            if (!preg_match('/\b(?:VIRTUAL|STORED|PERSISTENT|GENERATED)\b/i', $column['Extra'])) {
                $columns[] = dump_mariadb_column($column['Field'], $column['Type']);
            }
        }
        $key = [];
        foreach (dump_all($link, 'SHOW INDEX FROM ' . $quoted . " WHERE Key_name = 'PRIMARY'", PDO::FETCH_ASSOC) as $index) {
            $key[] = $index['Column_name'];
        }
        if (array_diff($key, array_column($columns, 0))) {
            $key = [];
        }
        $into = 'INSERT INTO ' . $quoted . ' (' . dump_names(array_column($columns, 0), '`') . ") VALUES\n";
        $came = dump_rows($link, $quoted, $columns, $key, '`', $cursor['last'], $into, $started + DUMP_SLICE_SECONDS, DUMP_SLICE_BYTES - strlen($text));
        $text .= $came[0];
        $rows += $came[2];
        if ($came[1] === null) {
            $at = array_search($table, $tables, true);
            $cursor = ['table' => $at === false || !isset($tables[$at + 1]) ? null : $tables[$at + 1], 'last' => null, 'begun' => false];
        } else {
            $cursor = ['table' => $table, 'last' => $came[1], 'begun' => true];
        }
        if (strlen($text) >= DUMP_SLICE_BYTES || microtime(true) - $started > DUMP_SLICE_SECONDS) {
            return [$text, $cursor, $rows];
        }
    }
    return [$text . dump_mariadb_rest($link), null, $rows];
}

/** A column of MariaDB: its name, how it is read, how its values are written. */
function dump_mariadb_column(string $name, string $type): array
{
    $quoted = dump_name($name, '`');
    if (preg_match('/^bit\b/i', $type)) {
        return [$name, $quoted . ' + 0', 'number'];
    }
    if (preg_match('/^(?:tinyint|smallint|mediumint|int|bigint|decimal|year)\b/i', $type)) {
        return [$name, $quoted, 'number'];
    }
    if (preg_match('/^(?:float|double)\b/i', $type)) {
        // As many digits as the number has.
        return [$name, 'CAST(' . $quoted . ' AS DOUBLE)', 'number'];
    }
    $bytes = preg_match('/blob|binary|geometry|point|linestring|polygon/i', $type);
    return [$name, $quoted, $bytes ? 'bytes' : 'text'];
}

/** What makes a thing, without who made it and without the database's name. */
function dump_plain(string $made, string $database): string
{
    if (preg_match('/\sDEFINER=`(?:[^`]|``)*`@`(?:[^`]|``)*`/', $made, $found)) {
        $made = str_replace($found[0], '', $made);
    }
    return str_replace(dump_name($database, '`') . '.', '', $made);
}

/** Views, triggers, routines and events, without who made them; each as one statement. */
function dump_mariadb_rest(PDO $link): string
{
    $database = dump_all($link, 'SELECT DATABASE()')[0][0];
    $text = '';
    $views = [];
    foreach (dump_all($link, "SELECT TABLE_NAME FROM information_schema.VIEWS WHERE TABLE_SCHEMA = DATABASE()") as $view) {
        $views[$view[0]] = dump_plain(dump_all($link, 'SHOW CREATE VIEW ' . dump_name($view[0], '`'))[0][1], $database);
    }
    // One that looks at another comes after it.
    while ($views) {
        $ready = null;
        foreach ($views as $name => $made) {
            $waits = false;
            foreach ($views as $other => $ignored) {
                $waits = $waits || ($other !== $name && strpos($made, dump_name((string) $other, '`')) !== false);
            }
            if (!$waits) {
                $ready = $name;
                break;
            }
        }
        $ready = $ready === null ? array_keys($views)[0] : $ready;
        $text .= "\n" . $views[$ready] . ";\n";
        $views = array_diff_key($views, [$ready => true]);
    }
    $bodies = [];
    foreach (dump_all($link, 'SELECT TRIGGER_NAME FROM information_schema.TRIGGERS WHERE TRIGGER_SCHEMA = DATABASE() ORDER BY EVENT_OBJECT_TABLE, ACTION_ORDER') as $one) {
        $bodies[] = array_slice(dump_all($link, 'SHOW CREATE TRIGGER ' . dump_name($one[0], '`'))[0], 1, 2);
    }
    foreach (dump_all($link, 'SELECT ROUTINE_TYPE, ROUTINE_NAME FROM information_schema.ROUTINES WHERE ROUTINE_SCHEMA = DATABASE()') as $one) {
        $bodies[] = array_slice(dump_all($link, 'SHOW CREATE ' . $one[0] . ' ' . dump_name($one[1], '`'))[0], 1, 2);
    }
    foreach (dump_all($link, 'SELECT EVENT_NAME FROM information_schema.EVENTS WHERE EVENT_SCHEMA = DATABASE()') as $one) {
        $made = dump_all($link, 'SHOW CREATE EVENT ' . dump_name($one[0], '`'))[0];
        $bodies[] = [$made[1], $made[3]];
    }
    foreach ($bodies as $body) {
        // A body means what it meant under the mode that it was made in. One that this user may not see is left out.
        if ((string) $body[1] !== '') {
            $text .= "\nSET sql_mode = " . $link->quote($body[0]) . ";\nDELIMITER ;;\n" . dump_plain($body[1], $database) . ";;\nDELIMITER ;\n";
        }
    }
    return $text;
}
