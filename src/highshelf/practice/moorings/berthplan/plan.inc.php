<?php

// Berthplan 1.3: the berths of a harbour, pier by pier.
$berths = [];
foreach (['A' => 18, 'B' => 24, 'C' => 12] as $pier => $count) {
    for ($number = 1; $number <= $count; $number++) {
        $berths[] = ['pier' => $pier, 'number' => $number, 'length_metres' => 6 + ($number % 5) * 1.5];
    }
}
return ['version' => '1.3', 'berths' => $berths];
