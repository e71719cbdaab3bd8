<?php
// Yhteys ja apurit.
function kanta(string $paikka, string $tili, string $avain, string $nimi): mysqli
{
    mysqli_report(MYSQLI_REPORT_OFF);
    $yhteys = @new mysqli($paikka, $tili, $avain, $nimi);
    if ($yhteys->connect_errno) {
        throw new RuntimeException('Tietokanta ei vastaa: ' . $yhteys->connect_error);
    }
    $yhteys->set_charset('utf8mb4');
    return $yhteys;
}

function h(string $t): string
{
    return htmlspecialchars($t, ENT_QUOTES, 'UTF-8');
}
