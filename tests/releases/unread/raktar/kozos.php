<?php
declare(strict_types=1);
require __DIR__ . '/osztaly/Tar.php';
session_start();
function kiir(string $cim, string $test): never
{
    echo '<!doctype html><html lang="hu"><head><meta charset="utf-8"><title>' . $cim . '</title></head><body><h1>' . $cim . '</h1>' . $test . '</body></html>';
    exit;
}
function tiszta(?string $s): string
{
    return htmlspecialchars((string) $s, ENT_QUOTES, 'UTF-8');
}
function beerkezett(string $nev): string
{
    return isset($_POST[$nev]) && is_string($_POST[$nev]) ? trim($_POST[$nev]) : '';
}
