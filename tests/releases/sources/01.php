<?php
class Starter {
  protected array $given = [];
  public function __construct(private Req $req) {}
  public function run() {
    $this->given['store']['server'] = trim($this->req->post['za'] ?? 'localhost');
    $this->given['store']['base'] = trim($this->req->post['zb']);
    $this->given['store']['login'] = $this->req->post['zc'];
    $this->given['store']['word'] = $this->req->post['zd'];
    $this->given['root']['nick'] = $this->req->post['ze'];
    $this->given['root']['pass'] = $this->req->post['zf'];
    if ($this->req->post['zf'] != $this->req->post['zg']) throw new Fault('x');
    $this->open(); $this->people(); $this->write();
  }
  private function open() {
    $s = $this->given['store'];
    $this->db = new \PDO('mysql:host=' . $s['server'] . ';dbname=' . $s['base'], $s['login'], $s['word']);
  }
  private function people() {
    $q = $this->db->prepare('INSERT INTO `crew` SET `nick` = :nick, `pass` = :pass');
    $q->bindValue(':nick', $this->given['root']['nick']);
    $q->bindValue(':pass', password_hash($this->given['root']['pass'], PASSWORD_DEFAULT));
    $q->execute();
  }
  private function write() {
    file_put_contents(ROOT . '/local.php', <<<PHP
<?php
return [
  'server' => '{$this->given['store']['server']}',
  'base' => '{$this->given['store']['base']}',
];
PHP);
  }
}
