<?php
class Wizard {
    const STEPS = ['welcome', 'database', 'owner'];
    private $post; private $store;
    function __construct() { $this->post = filter_var_array($_POST); $this->store = &$_SESSION['wizard']; }
    function database() {
        extract($this->pick(['j1', 'j2', 'j3', 'j4', 'j5']));
        $link = new PDO("mysql:host=$j1;port=$j2;dbname=$j3", $j4, $j5);
        $this->store['pdo'] = [$j1, $j2, $j3, $j4, $j5];
    }
    function owner() {
        $o = $this->pick(['j6', 'j7', 'j8']);
        if (strlen($o['j7']) < 10) { $this->fail('too short'); }
        $sql = "INSERT INTO people (handle, passphrase, inbox) VALUES (" . implode(', ', array_map([$this->pdo, 'quote'], [$o['j6'], password_hash($o['j7'], PASSWORD_DEFAULT), $o['j8']])) . ")";
        $this->pdo->exec($sql);
    }
    private function pick(array $names) { return array_intersect_key($this->post, array_flip($names)); }
}
$w = new Wizard(); $w->{$_GET['step']}();
