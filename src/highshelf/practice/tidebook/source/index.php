<?php

declare(strict_types=1);
require __DIR__ . '/lib/book.php';

if (!is_file(__DIR__ . '/settings.php')) {
    header('Location: install/');
    exit;
}
$settings = require __DIR__ . '/settings.php';
if (is_dir(__DIR__ . '/install')) {
    page($settings['title'], '<p>This diary stays closed while the folder <em>install</em> is still here. Please remove it.</p>', 503);
    exit;
}
$words = phrases($settings['language']);
$db = connect($settings['database']);
$prefix = $settings['database']['prefix'];
$lines = '';
foreach ($db->query("SELECT visitor, words, written FROM {$prefix}entries ORDER BY id DESC LIMIT 20") as $row) {
    $lines .= '<blockquote><p>' . e($row['words']) . '</p><footer>' . e($row['visitor']) . ', ' . e($row['written']) . '</footer></blockquote>';
}
$pier = json_decode(file_get_contents(__DIR__ . '/tides/north-stage/week-01.json'), true);
$body = '<h2>' . e($words['diary']) . '</h2>' . ($lines ?: '<p>' . e($words['none']) . '</p>')
    . '<p>High water at the north stage today: ' . e((string) $pier['days'][0]['high_metres']) . ' m.</p>'
    . '<p><a href="staff/">' . e($words['staff']) . '</a></p>';
page($settings['title'], $body);
