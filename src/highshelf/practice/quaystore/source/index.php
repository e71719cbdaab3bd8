<?php

declare(strict_types=1);

use Quaystore\Page;
use Quaystore\Shop;

require __DIR__ . '/core/load.php';

$shop = Shop::open();
if ($shop === null) {
    header('Location: setup/');
    exit;
}
try {
    $rows = $shop->database()->query('SELECT name, cents, stock FROM `' . $shop->table('goods') . '` ORDER BY name')->fetchAll();
} catch (Throwable) {
    Page::show('The shop is closed for a moment', '<p>Please come back a little later.</p>', status: 503);
}
$goods = '';
foreach ($rows as $row) {
    $goods .= '<li>' . Page::text($row['name']) . ', ' . number_format($row['cents'] / 100, 2) . ' ' . Page::text($shop->settings['currency']) . '</li>';
}
Page::show($shop->settings['title'], $goods === '' ? '<p>Nothing lies on the quay yet.</p>' : "<ul>$goods</ul>");
