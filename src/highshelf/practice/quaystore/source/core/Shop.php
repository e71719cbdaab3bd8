<?php

declare(strict_types=1);

namespace Quaystore;

use PDO;

/** The shop as it is set up: its settings and its database. */
final class Shop
{
    public const VERSION = '3.2.0';
    public const PHP_NEEDED = '8.1.0';

    /** @param array<string, mixed> $settings */
    public function __construct(public readonly array $settings)
    {
    }

    public static function root(): string
    {
        return dirname(__DIR__);
    }

    public static function settingsFile(): string
    {
        return self::root() . '/settings/shop.php';
    }

    /** The shop, or null while nobody has set it up. */
    public static function open(): ?self
    {
        return is_file(self::settingsFile()) ? new self(require self::settingsFile()) : null;
    }

    public function database(): PDO
    {
        return Database::connect($this->settings['database']);
    }

    public function table(string $name): string
    {
        return $this->settings['database']['prefix'] . $name;
    }
}
