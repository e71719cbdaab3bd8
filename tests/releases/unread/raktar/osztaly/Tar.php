<?php
declare(strict_types=1);

namespace Raktar;

/** A könyvek tára: egy kapcsolat, és ami rajta átmegy. */
final class Tar
{
    private \PDO $vonal;

    public function __construct(private string $hol, private string $melyik, string $ki, string $jelszo, private string $elotag = '')
    {
        $this->vonal = new \PDO(sprintf('mysql:host=%s;dbname=%s;charset=utf8mb4', $hol, $melyik), $ki, $jelszo, [\PDO::ATTR_ERRMODE => \PDO::ERRMODE_EXCEPTION]);
    }

    public function tesz(string $tabla, array $sor): void
    {
        $jelek = implode(', ', array_fill(0, count($sor), '?'));
        $this->vonal->prepare('INSERT INTO ' . $this->elotag . $tabla . ' (' . implode(', ', array_keys($sor)) . ") VALUES ($jelek)")->execute(array_values($sor));
    }

    public function egy(string $mi, array $mivel = []): ?array
    {
        $s = $this->vonal->prepare(str_replace('#', $this->elotag, $mi));
        $s->execute($mivel);
        return $s->fetch(\PDO::FETCH_ASSOC) ?: null;
    }

    public function epit(): void
    {
        foreach (['olvasok (id INT AUTO_INCREMENT PRIMARY KEY, nev VARCHAR(80), kulcs VARCHAR(255), level VARCHAR(120))', 'konyvek (id INT AUTO_INCREMENT PRIMARY KEY, cim TEXT)', 'beallitasok (mi VARCHAR(40) PRIMARY KEY, ertek TEXT)'] as $t) {
            $this->vonal->exec('CREATE TABLE ' . $this->elotag . $t);
        }
    }
}
