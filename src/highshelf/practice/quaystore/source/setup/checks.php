<?php

declare(strict_types=1);

use Quaystore\Page;
use Quaystore\Shop;

/** @return array{string, bool} the list as markup, and whether everything required is there */
function check_list(): array
{
    $rows = [['PHP ' . Shop::PHP_NEEDED . ' or newer', version_compare(PHP_VERSION, Shop::PHP_NEEDED, '>='), true]];
    foreach (['pdo_mysql' => true, 'json' => true, 'mbstring' => true, 'intl' => true, 'gd' => false, 'imagick' => false] as $name => $required) {
        $rows[] = ["Extension $name", extension_loaded($name), $required];
    }
    foreach (['settings', 'storage', 'pictures'] as $folder) {
        $rows[] = ["Folder $folder can be written", is_writable(Shop::root() . "/$folder"), true];
    }
    $memory = ini_parse_quantity_or((string) ini_get('memory_limit'));
    $rows[] = ['Memory of 64 MB or more', $memory < 0 || $memory >= 64 << 20, true];
    $list = '';
    $fine = true;
    foreach ($rows as [$what, $holds, $required]) {
        $fine = $fine && ($holds || !$required);
        $state = $holds ? 'ok' : ($required ? 'failed' : 'note');
        $said = $holds ? 'available' : ($required ? 'missing' : 'missing (only recommended)');
        $list .= "<li class=\"$state\"><span>" . Page::text($what) . "</span> <b>$said</b></li>";
    }
    return ["<ul class=\"checks\">$list</ul>", $fine];
}

function ini_parse_quantity_or(string $text): int
{
    return (int) $text * (['K' => 1 << 10, 'M' => 1 << 20, 'G' => 1 << 30][strtoupper(substr($text, -1))] ?? 1);
}
