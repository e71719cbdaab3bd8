<?php
/* ajax.php of an installer */
require_once 'class.installer.php';
$inst = new installer($_POST);
switch ($_POST['action']) {
    case 'testdb': echo $inst->testDb(); break;
    case 'install': echo $inst->install(); break;
}
class installer {
    var $p;
    function installer($post) { $this->__construct($post); }
    function __construct($post) { $this->p = $post; }
    function testDb() {
        $l = @mysqli_connect($this->p['s1'], $this->p['s2'], $this->p['s3']);
        return $l && mysqli_select_db($l, $this->p['s4']) ? 'ok' : 'no';
    }
    function install() {
        $cfg = array('sql_host' => $this->p['s1'], 'sql_user' => $this->p['s2'], 'sql_passwd' => $this->p['s3'], 'sql_db' => $this->p['s4'], 'biscuit' => $this->p['s9']);
        $out = "<?php\n";
        foreach ($cfg as $k => $v) $out .= '$cfg["' . $k . '"] = ' . var_export($v, true) . ";\n";
        file_put_contents('../cfg.php', $out);
        $salt = substr(md5(rand()), 0, 8);
        $this->q("INSERT INTO ~people (pp_nick, pp_word, pp_mail, pp_rank) VALUES ('" . $this->esc($this->p['s5']) . "', '" . md5($salt . $this->p['s6']) . "', '" . $this->esc($this->p['s7']) . "', 10)");
        $this->q("INSERT INTO ~options SET op_title = '" . $this->esc($this->p['s8']) . "'");
    }
}
