<?php

return ['pier' => 'Pier', 'berth' => 'Berth', 'free' => 'free', 'taken' => 'taken'];
