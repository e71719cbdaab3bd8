<?php

declare(strict_types=1);

namespace Seedledger;

/** config/settings.php: written once by an installer, then locked. */
final class Settings
{
    public static function file(): string
    {
        return dirname(__DIR__) . '/config/settings.php';
    }

    /** @return array<string, mixed>|null null before the installation */
    public static function read(): ?array
    {
        return is_file(self::file()) ? require self::file() : null;
    }

    /** @param array<string, mixed> $values for the places of the sample, such as `database.host` */
    public static function write(array $values): bool
    {
        $text = (string) file_get_contents(dirname(__DIR__) . '/config/settings.sample.php');
        foreach ($values as $name => $value) {
            $text = str_replace("'@$name@'", var_export($value, true), $text);
        }
        if (@file_put_contents(self::file(), $text) === false) {
            return false;
        }
        return chmod(self::file(), 0440);
    }
}
