/** Log in to a database from here; says what the server says and how many tables are seen. */
function database_login(array $wanted): array
{
    if (!class_exists('PDO') || !in_array('mysql', PDO::getAvailableDrivers(), true)) {
        return ['ok' => false, 'error' => 'PHP here has no pdo_mysql'];
    }
    $source = 'mysql:host=' . $wanted['host'] . ($wanted['host'] === 'localhost' ? '' : ';port=' . (int) $wanted['port']) . ';dbname=' . $wanted['name'];
    try {
        $link = new PDO($source, $wanted['user'], $wanted['password'], [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_TIMEOUT => 10]);
        $tables = $link->query('SHOW TABLES')->fetchAll(PDO::FETCH_COLUMN);
        if (!empty($wanted['write'])) {
            $link->exec('CREATE TABLE hs_probe (n INT)');
            $link->exec('DROP TABLE hs_probe');
        }
        return ['ok' => true, 'version' => (string) $link->getAttribute(PDO::ATTR_SERVER_VERSION), 'tables' => $tables];
    } catch (PDOException $fault) {
        return ['ok' => false, 'error' => $fault->getMessage()];
    }
}

