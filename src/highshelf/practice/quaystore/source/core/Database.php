<?php

declare(strict_types=1);

namespace Quaystore;

use PDO;
use RuntimeException;

final class Database
{
    /**
     * @param array{host: string, port: int|string, name: string, user: string, password: string, tls: bool} $to
     * @throws \PDOException when the server says no
     */
    public static function connect(array $to): PDO
    {
        $port = (int) $to['port'] === 0 || $to['host'] === 'localhost' ? '' : ';port=' . (int) $to['port'];
        $options = [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_TIMEOUT => 5];
        $made = new PDO("mysql:host={$to['host']}$port;dbname={$to['name']};charset=utf8mb4", $to['user'], $to['password'], $options);
        if (!empty($to['tls']) && ($made->query("SHOW STATUS LIKE 'Ssl_cipher'")->fetch()[1] ?? '') === '') {
            throw new RuntimeException('The connection is not encrypted.');
        }
        return $made;
    }

    /** @return list<string> the statements that make a shop of this kind */
    public static function schema(string $prefix, string $kind): array
    {
        $made = [
            "CREATE TABLE `{$prefix}goods` (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(160) NOT NULL, cents INT NOT NULL, stock INT NOT NULL DEFAULT 0)",
            "CREATE TABLE `{$prefix}orders` (id INT AUTO_INCREMENT PRIMARY KEY, email VARCHAR(200) NOT NULL, cents INT NOT NULL, made DATETIME NOT NULL)",
            "CREATE TABLE `{$prefix}order_lines` (id INT AUTO_INCREMENT PRIMARY KEY, order_id INT NOT NULL, goods_id INT NOT NULL, pieces INT NOT NULL)",
            "CREATE TABLE `{$prefix}crew` (id INT AUTO_INCREMENT PRIMARY KEY, login VARCHAR(80) NOT NULL UNIQUE, secret VARCHAR(255) NOT NULL, email VARCHAR(200) NOT NULL, name VARCHAR(160) NOT NULL)",
            "CREATE TABLE `{$prefix}facts` (name VARCHAR(80) PRIMARY KEY, value TEXT NOT NULL)",
        ];
        $more = ['suppliers', 'deliveries', 'shelves', 'stock_moves', 'reminders', 'price_lists', 'taxes'];
        foreach ($kind === 'chandlery' ? $more : [] as $name) {
            $made[] = "CREATE TABLE `{$prefix}{$name}` (id INT AUTO_INCREMENT PRIMARY KEY, label VARCHAR(160) NOT NULL, noted DATETIME NOT NULL)";
        }
        return $made;
    }
}
