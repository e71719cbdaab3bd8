<?php

declare(strict_types=1);

use Seedledger\Database;
use Seedledger\Html;
use Seedledger\Settings;
use Seedledger\Setup;
use Seedledger\Staff;

require dirname(__DIR__) . '/src/autoload.php';

$base = rtrim(dirname($_SERVER['SCRIPT_NAME']), '/');
$page = rtrim(substr((string) parse_url($_SERVER['REQUEST_URI'], PHP_URL_PATH), strlen($base)), '/');
$page = preg_replace('~^/index\.php~', '', $page);
$settings = Settings::read();
if ($page === '/setup') {
    (new Setup())->run();
    exit;
}
if ($settings === null) {
    Html::page('Setting up', '<p>One moment: <a href="' . Html::e($base) . '/setup">to the setup</a>.</p>', 200, '<meta http-equiv="refresh" content="1; url=' . Html::e($base) . '/setup">');
    exit;
}
// Only names that the settings know; others could be somebody's trap.
$name = strtolower((string) preg_replace('~:\d+$~', '', $_SERVER['HTTP_HOST'] ?? ''));
if (!preg_match('~' . str_replace('~', '\~', $settings['host_pattern']) . '~', $name)) {
    Html::page('Not this name', '<p>The provided host name is not valid for this ledger. See host_pattern in config/settings.php.</p>', 400);
    exit;
}
date_default_timezone_set($settings['time_zone']);
if (str_starts_with($page, '/staff')) {
    (new Staff($settings))->run($page);
} elseif ($page === '') {
    $count = Database::open($settings['database'])->query('SELECT COUNT(*) AS n FROM ledger_seed')->fetch()['n'];
    Html::page($settings['title'], "<p>$count kinds of seeds lie ready.</p><p><a href=\"staff\">Staff</a></p>");
} else {
    Html::page('Not found', '<p>There is no such page.</p>', 404);
}
