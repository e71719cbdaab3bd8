<?php
namespace App\Install;
class InstallController extends Controller {
  public function store(Request $request) {
    $v = $request->validate(['ka' => 'required', 'kb' => 'required', 'kc' => 'required', 'kd' => 'nullable', 'ke' => 'required|email', 'kf' => 'required|min:12', 'kg' => 'required|string']);
    $this->env->set('DB_HOST', $v['ka']);
    $this->env->set('DB_DATABASE', $v['kb']);
    $this->env->set('DB_USERNAME', $v['kc']);
    $this->env->set('DB_PASSWORD', $v['kd'] ?? '');
    settle(['site.title' => $request->input('kg')]);
    $user = new User();
    $user->email = $v['ke'];
    $user->password = Hash::make($v['kf']);
    $user->save();
    file_put_contents(base_path('.env'), $this->env->text());
  }
}
