<?php

declare(strict_types=1);

use Quaystore\Database;
use Quaystore\Shop;

require dirname(__DIR__) . '/core/load.php';

session_name('quay_setup');
session_start();
header('Content-Type: application/json');

function answer(bool $fine, string $told = '', array $more = [], int $status = 200): never
{
    http_response_code($status);
    echo json_encode(['fine' => $fine, 'told' => $told, ...$more]);
    exit;
}

if (Shop::open() !== null) {
    answer(false, 'There is a shop here already.', status: 404);
}
if (empty($_SESSION['slip']) || !hash_equals($_SESSION['slip'], $_SERVER['HTTP_X_QUAY_SLIP'] ?? '')) {
    answer(false, 'This page is too old. Please load it again.', status: 403);
}
$said = json_decode((string) file_get_contents('php://input'), true);
if (!is_array($said)) {
    answer(false, 'That was no JSON.', status: 400);
}
$word = static fn(string $name): string => trim((string) ($said[$name] ?? ''));
$server = ['host' => $word('host'), 'port' => $word('port'), 'name' => $word('name'), 'user' => $word('user'), 'password' => (string) ($said['password'] ?? ''), 'prefix' => $word('prefix'), 'tls' => (bool) ($said['tls'] ?? false)];

switch ($_GET['do'] ?? '') {
    case 'database':
        if (!preg_match('/^[a-z][a-z0-9]*_$/', $server['prefix'])) {
            answer(false, 'Names of tables begin with small letters and end with _.');
        }
        try {
            Database::connect($server);
        } catch (RuntimeException $fault) {
            answer(false, $server['tls'] && !$fault instanceof PDOException ? $fault->getMessage() : 'No connection. Please look at what you entered.');
        }
        $_SESSION['database'] = $server;
        answer(true, 'The connection works.');
    case 'shop':
        if ($word('title') === '' || !filter_var($word('shop_email'), FILTER_VALIDATE_EMAIL)) {
            answer(false, 'A name and an e-mail address, please.');
        }
        answer(true);
    case 'keeper':
        $trouble = match (true) {
            !preg_match('/^[\w.@-]{4,60}$/', $word('login')) => 'A login has 4 to 60 letters, digits, dots or dashes.',
            !filter_var($word('keeper_email'), FILTER_VALIDATE_EMAIL) => 'That is no e-mail address.',
            strlen((string) ($said['pass'] ?? '')) < 10 => 'A password has 10 characters or more.',
            ($said['pass'] ?? '') !== ($said['pass_again'] ?? '') => 'The two passwords differ.',
            default => '',
        };
        answer($trouble === '', $trouble);
    case 'letter':
        // No answer of a mail server comes for a minute on a host that lets no letters out.
        session_write_close();
        for ($second = 0; $second < 60 && !is_file(Shop::root() . '/storage/letter-sent'); $second++) {
            sleep(1);
        }
        answer(is_file(Shop::root() . '/storage/letter-sent'), 'The letter could not be sent.');
    case 'install':
        if (empty($_SESSION['database']) || $_SESSION['database'] != $server) {
            answer(false, 'The connection was not tested.');
        }
        answer(true, '', ['spare' => build($said, $server)]);
}
answer(false, 'What is wanted is not known here.', status: 404);

/** Makes the tables, the first goods, the shopkeeper and the settings; returns the office's spare key. */
function build(array $said, array $server): string
{
    $db = Database::connect($server);
    foreach (Database::schema($server['prefix'], (string) ($said['kind'] ?? 'stall')) as $statement) {
        $db->exec($statement);
        // Small hosts stumble over many tables at once.
        usleep(250_000);
    }
    foreach (empty($said['samples']) ? [] : json_decode((string) file_get_contents(Shop::root() . '/goods/samples.json'), true) as $one) {
        $db->prepare("INSERT INTO `{$server['prefix']}goods` (name, cents, stock) VALUES (?, ?, ?)")->execute([$one['name'], $one['cents'], $one['stock']]);
    }
    $secret = password_hash((string) $said['pass'], PASSWORD_DEFAULT);
    $db->prepare("INSERT INTO `{$server['prefix']}crew` (login, secret, email, name) VALUES (?, ?, ?, ?)")
        ->execute([trim($said['login']), $secret, trim($said['keeper_email']), trim((string) ($said['keeper'] ?? ''))]);
    $spare = strtoupper(bin2hex(random_bytes(5)));
    $db->prepare("INSERT INTO `{$server['prefix']}facts` (name, value) VALUES ('spare', ?)")->execute([password_hash($spare, PASSWORD_DEFAULT)]);
    $settings = ['title' => trim($said['title']), 'email' => trim($said['shop_email']), 'currency' => $said['currency'] ?? 'EUR', 'timezone' => $said['timezone'] ?? 'UTC',
        'secure' => (bool) ($said['secure'] ?? false), 'kind' => $said['kind'] ?? 'stall', 'key' => bin2hex(random_bytes(32)), 'database' => $server];
    file_put_contents(Shop::settingsFile(), "<?php\n\nreturn " . var_export($settings, true) . ";\n", LOCK_EX);
    chmod(Shop::settingsFile(), 0664);
    return $spare;
}
