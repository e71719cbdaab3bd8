<?php

declare(strict_types=1);

namespace Seedledger;

use PDO;

final class Database
{
    public const TABLES = ['ledger_keeper', 'ledger_seed', 'ledger_lending', 'ledger_note', 'ledger_state'];

    /**
     * @param array{engine: string, host: string, port: int, name: string, user: string, password: string} $to
     * @throws \PDOException what the server says
     */
    public static function open(array $to): PDO
    {
        $port = $to['port'] > 0 ? ";port={$to['port']}" : '';
        $host = $to['host'] === '' ? '' : "host={$to['host']}";
        $source = $to['engine'] === 'pgsql' ? "pgsql:$host$port;dbname={$to['name']}" : "mysql:$host$port;dbname={$to['name']};charset=utf8mb4";
        return new PDO($source, $to['user'], $to['password'], [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_DEFAULT_FETCH_MODE => PDO::FETCH_ASSOC, PDO::ATTR_TIMEOUT => 5]);
    }

    /** @return list<string> tables that are not there */
    public static function missing(PDO $db): array
    {
        $missing = [];
        foreach (self::TABLES as $table) {
            try {
                $db->query("SELECT 1 FROM $table LIMIT 1");
            } catch (\PDOException) {
                $missing[] = $table;
            }
        }
        return $missing;
    }

    public static function dump(string $engine): string
    {
        return dirname(__DIR__) . '/database/seedledger.' . ($engine === 'pgsql' ? 'pgsql' : 'mysql') . '.sql';
    }

    public static function addKeeper(PDO $db, string $name, string $email, string $password): void
    {
        $db->prepare('INSERT INTO ledger_keeper (login, email, secret) VALUES (?, ?, ?)')->execute([$name, $email, password_hash($password, PASSWORD_DEFAULT)]);
    }
}
