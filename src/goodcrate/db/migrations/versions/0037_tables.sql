CREATE SEQUENCE `weighing_order` start with 1 minvalue 1 maxvalue 9223372036854775806 increment by 1 nocache nocycle ENGINE=InnoDB
;
CREATE TABLE `household` (
  `id` uuid NOT NULL,
  `name` varchar(160) NOT NULL,
  `currency_code` varchar(3) NOT NULL,
  `currency_symbol` varchar(8) NOT NULL,
  `created_at` datetime(6) NOT NULL,
  `measures` varchar(12) NOT NULL DEFAULT 'metric',
  `polyol_share` double NOT NULL DEFAULT 0.5,
  `fridge_boxes` int(11) DEFAULT NULL,
  `freezer_boxes` int(11) DEFAULT NULL,
  `keep_rule` varchar(10) NOT NULL DEFAULT 'usual',
  `leaves_traces_out` tinyint(1) NOT NULL DEFAULT 0,
  `version` int(11) NOT NULL DEFAULT 1,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `sign_in_try` (
  `name` varchar(80) NOT NULL,
  `place` varchar(72) NOT NULL,
  `failures` int(11) NOT NULL,
  `last_at` datetime(6) NOT NULL,
  `next_at` datetime(6) NOT NULL,
  PRIMARY KEY (`name`,`place`),
  KEY `ix_sign_in_try_last_at` (`last_at`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `eater` (
  `name` varchar(160) NOT NULL,
  `about` varchar(160) NOT NULL,
  `excluded_allergens` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`excluded_allergens`)),
  `no_pork` tinyint(1) NOT NULL,
  `dislikes` varchar(240) NOT NULL,
  `position` int(11) NOT NULL,
  `version` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `sex` varchar(8) NOT NULL DEFAULT '',
  `age_years` double DEFAULT NULL,
  `height_cm` double DEFAULT NULL,
  `weight_kg` double DEFAULT NULL,
  `activity` varchar(12) NOT NULL DEFAULT 'light',
  `conditions` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`conditions`)),
  `medical_notes` varchar(1000) NOT NULL DEFAULT '',
  `diet` varchar(12) NOT NULL DEFAULT '',
  `meal_block_kcal` double DEFAULT NULL,
  `snack_block_kcal` double DEFAULT NULL,
  `is_archived` tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (`household_id`,`id`),
  CONSTRAINT `fk_eater_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `food` (
  `origin_key` varchar(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL,
  `name` varchar(160) NOT NULL,
  `state` varchar(20) NOT NULL,
  `food_group` varchar(20) NOT NULL,
  `allergens` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`allergens`)),
  `diet` varchar(10) NOT NULL,
  `contains_pork` tinyint(1) NOT NULL,
  `density_g_per_ml` double DEFAULT NULL,
  `each_name` varchar(80) DEFAULT NULL,
  `each_g` double DEFAULT NULL,
  `refuse_pct` double DEFAULT NULL,
  `keep_group` varchar(30) NOT NULL,
  `cooked_key` varchar(80) DEFAULT NULL,
  `cooked_yield` double DEFAULT NULL,
  `aisle` varchar(30) NOT NULL,
  `pack_g` double DEFAULT NULL,
  `note` text NOT NULL,
  `source` varchar(160) NOT NULL,
  `version` int(11) NOT NULL,
  `energy_kcal` double DEFAULT NULL,
  `protein_g` double DEFAULT NULL,
  `fat_g` double DEFAULT NULL,
  `saturated_g` double DEFAULT NULL,
  `carbohydrate_g` double DEFAULT NULL,
  `sugars_g` double DEFAULT NULL,
  `fibre_g` double DEFAULT NULL,
  `alcohol_g` double DEFAULT NULL,
  `sodium_mg` double DEFAULT NULL,
  `potassium_mg` double DEFAULT NULL,
  `calcium_mg` double DEFAULT NULL,
  `iron_mg` double DEFAULT NULL,
  `magnesium_mg` double DEFAULT NULL,
  `zinc_mg` double DEFAULT NULL,
  `selenium_ug` double DEFAULT NULL,
  `iodine_ug` double DEFAULT NULL,
  `vitamin_a_ug_rae` double DEFAULT NULL,
  `vitamin_c_mg` double DEFAULT NULL,
  `vitamin_d_ug` double DEFAULT NULL,
  `vitamin_b12_ug` double DEFAULT NULL,
  `folate_ug` double DEFAULT NULL,
  `omega3_g` double DEFAULT NULL,
  `omega6_g` double DEFAULT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `polyols_g` double DEFAULT NULL,
  `search_text` varchar(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  `serving_g` double DEFAULT NULL,
  `price` decimal(9,2) DEFAULT NULL,
  `barcode` varchar(14) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL,
  `label` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`label`)),
  `figure_errors` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`figure_errors`)),
  `source_kind` varchar(12) NOT NULL DEFAULT 'reference',
  `figures_at` datetime(6) DEFAULT NULL,
  `figures_version` int(11) NOT NULL DEFAULT 1,
  `stamp` int(11) NOT NULL DEFAULT 0,
  `cooks_like` varchar(10) NOT NULL DEFAULT '',
  `at_least` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`at_least`)),
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_food_household_id_origin_key` (`household_id`,`origin_key`),
  UNIQUE KEY `uq_food_household_id_barcode` (`household_id`,`barcode`),
  KEY `ix_food_stamp` (`household_id`,`stamp`),
  CONSTRAINT `fk_food_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `food_import` (
  `name` varchar(160) NOT NULL,
  `encoding` varchar(20) NOT NULL,
  `content` longtext NOT NULL,
  `uploaded_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  CONSTRAINT `fk_food_import_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `food_stamp` (
  `household_id` uuid NOT NULL,
  `value` int(11) NOT NULL,
  PRIMARY KEY (`household_id`),
  CONSTRAINT `fk_food_stamp_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `household_change` (
  `household_id` uuid NOT NULL,
  `value` bigint(20) NOT NULL,
  `plan` bigint(20) NOT NULL,
  PRIMARY KEY (`household_id`),
  CONSTRAINT `fk_household_change_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `recipe` (
  `name` varchar(160) NOT NULL,
  `servings` decimal(5,1) NOT NULL,
  `note` text NOT NULL,
  `tags` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`tags`)),
  `version` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `steps` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '[]' CHECK (json_valid(`steps`)),
  `variants` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '[]' CHECK (json_valid(`variants`)),
  `origin` varchar(200) NOT NULL DEFAULT '',
  `is_archived` tinyint(1) NOT NULL DEFAULT 0,
  `last_page` varchar(36) NOT NULL DEFAULT '',
  `last_edit` bigint(20) NOT NULL DEFAULT 0,
  PRIMARY KEY (`household_id`,`id`),
  CONSTRAINT `fk_recipe_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `recipe_import` (
  `name` varchar(160) NOT NULL,
  `recipes` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`recipes`)),
  `total` int(11) NOT NULL,
  `done` int(11) NOT NULL,
  `report` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`report`)),
  `uploaded_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  CONSTRAINT `fk_recipe_import_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `user_account` (
  `id` uuid NOT NULL,
  `household_id` uuid NOT NULL,
  `name` varchar(80) NOT NULL,
  `password_hash` varchar(200) NOT NULL,
  `created_at` datetime(6) NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `uq_user_account_name` (`name`),
  KEY `fk_user_account_household_id` (`household_id`),
  CONSTRAINT `fk_user_account_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `vessel` (
  `name` varchar(80) NOT NULL,
  `kind` varchar(12) NOT NULL,
  `volume_ml` double NOT NULL,
  `minimum_ml` double NOT NULL,
  `count` int(11) NOT NULL,
  `tare_g` decimal(9,1) DEFAULT NULL,
  `position` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `version` int(11) NOT NULL DEFAULT 1,
  PRIMARY KEY (`household_id`,`id`),
  CONSTRAINT `fk_vessel_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `week` (
  `first_day` date NOT NULL,
  `days` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `recipe_versions` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '{}' CHECK (json_valid(`recipe_versions`)),
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_week_household_id_first_day` (`household_id`,`first_day`),
  CONSTRAINT `fk_week_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `ck_week_days` CHECK (`days` between 1 and 14)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `week_pattern` (
  `name` varchar(160) NOT NULL,
  `days` int(11) NOT NULL,
  `meals` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`meals`)),
  `saved_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  CONSTRAINT `fk_week_pattern_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `component` (
  `recipe_id` uuid NOT NULL,
  `name` varchar(80) NOT NULL,
  `cooked_g` decimal(9,1) DEFAULT NULL,
  `position` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `storage` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '{}' CHECK (json_valid(`storage`)),
  `vessel` varchar(12) NOT NULL DEFAULT '',
  `minimum_ml` double DEFAULT NULL,
  `pending` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '[]' CHECK (json_valid(`pending`)),
  `learned` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '[]' CHECK (json_valid(`learned`)),
  `is_retired` tinyint(1) NOT NULL DEFAULT 0,
  `used_component_id` uuid DEFAULT NULL,
  `serving_g` decimal(9,1) DEFAULT NULL,
  `variant_id` uuid DEFAULT NULL,
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_component_household_id_recipe_id` (`household_id`,`recipe_id`),
  KEY `fk_component_household_id_used_component_id` (`household_id`,`used_component_id`),
  CONSTRAINT `fk_component_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_component_household_id_recipe_id` FOREIGN KEY (`household_id`, `recipe_id`) REFERENCES `recipe` (`household_id`, `id`) ON DELETE CASCADE,
  CONSTRAINT `fk_component_household_id_used_component_id` FOREIGN KEY (`household_id`, `used_component_id`) REFERENCES `component` (`household_id`, `id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `day_type` (
  `eater_id` uuid NOT NULL,
  `name` varchar(40) NOT NULL,
  `weekdays` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`weekdays`)),
  `energy_kcal` double NOT NULL,
  `energy_band_pct` double NOT NULL,
  `protein_floor_g` double NOT NULL,
  `clinician_confirmed` tinyint(1) NOT NULL,
  `position` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `way` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '{}' CHECK (json_valid(`way`)),
  `bands` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '{}' CHECK (json_valid(`bands`)),
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_day_type_household_id_eater_id` (`household_id`,`eater_id`),
  CONSTRAINT `fk_day_type_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_day_type_household_id_eater_id` FOREIGN KEY (`household_id`, `eater_id`) REFERENCES `eater` (`household_id`, `id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `eater_extra` (
  `eater_id` uuid NOT NULL,
  `food_id` uuid NOT NULL,
  `text` varchar(160) NOT NULL,
  `grams` decimal(9,1) NOT NULL,
  `measure` varchar(12) NOT NULL,
  `standard_error_g` double NOT NULL,
  `position` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_eater_extra_household_id_eater_id` (`household_id`,`eater_id`),
  KEY `fk_eater_extra_household_id_food_id` (`household_id`,`food_id`),
  CONSTRAINT `fk_eater_extra_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_eater_extra_household_id_eater_id` FOREIGN KEY (`household_id`, `eater_id`) REFERENCES `eater` (`household_id`, `id`) ON DELETE CASCADE,
  CONSTRAINT `fk_eater_extra_household_id_food_id` FOREIGN KEY (`household_id`, `food_id`) REFERENCES `food` (`household_id`, `id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `food_past` (
  `food_id` uuid NOT NULL,
  `figures_version` int(11) NOT NULL,
  `figures` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`figures`)),
  `figure_errors` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`figure_errors`)),
  `cooked_yield` double DEFAULT NULL,
  `source` varchar(160) NOT NULL,
  `replaced_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_food_past_household_id_food_id_figures_version` (`household_id`,`food_id`,`figures_version`),
  CONSTRAINT `fk_food_past_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_food_past_household_id_food_id` FOREIGN KEY (`household_id`, `food_id`) REFERENCES `food` (`household_id`, `id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `in_the_house` (
  `recipe_id` uuid DEFAULT NULL,
  `food_id` uuid DEFAULT NULL,
  `typed` varchar(120) NOT NULL,
  `count` int(11) NOT NULL,
  `grams` decimal(9,1) NOT NULL,
  `place` varchar(10) NOT NULL,
  `since` date NOT NULL,
  `until` date DEFAULT NULL,
  `live` int(11) DEFAULT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_in_the_house_household_id_food_id` (`household_id`,`food_id`),
  KEY `fk_in_the_house_household_id_recipe_id` (`household_id`,`recipe_id`),
  CONSTRAINT `fk_in_the_house_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_in_the_house_household_id_food_id` FOREIGN KEY (`household_id`, `food_id`) REFERENCES `food` (`household_id`, `id`),
  CONSTRAINT `fk_in_the_house_household_id_recipe_id` FOREIGN KEY (`household_id`, `recipe_id`) REFERENCES `recipe` (`household_id`, `id`),
  CONSTRAINT `ck_in_the_house_one_thing` CHECK (`recipe_id` is null <> (`food_id` is null))
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `known_device` (
  `token_hash` binary(32) NOT NULL,
  `user_id` uuid NOT NULL,
  `seen_at` datetime(6) NOT NULL,
  PRIMARY KEY (`token_hash`),
  KEY `fk_known_device_user_id` (`user_id`),
  CONSTRAINT `fk_known_device_user_id` FOREIGN KEY (`user_id`) REFERENCES `user_account` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `plan_job` (
  `week_id` uuid NOT NULL,
  `status` varchar(12) NOT NULL,
  `rules` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`rules`)),
  `plans` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`plans`)),
  `conflicts` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`conflicts`)),
  `said` varchar(200) NOT NULL,
  `wants_stop` tinyint(1) NOT NULL,
  `started_at` datetime(6) NOT NULL,
  `beat_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `opened` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '[]' CHECK (json_valid(`opened`)),
  `replaced` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '[]' CHECK (json_valid(`replaced`)),
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_plan_job_household_id_week_id` (`household_id`,`week_id`),
  CONSTRAINT `fk_plan_job_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_plan_job_household_id_week_id` FOREIGN KEY (`household_id`, `week_id`) REFERENCES `week` (`household_id`, `id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `prep_session` (
  `week_id` uuid NOT NULL,
  `starts_at` datetime NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_prep_session_household_id_week_id_starts_at` (`household_id`,`week_id`,`starts_at`),
  CONSTRAINT `fk_prep_session_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_prep_session_household_id_week_id` FOREIGN KEY (`household_id`, `week_id`) REFERENCES `week` (`household_id`, `id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `recipe_past` (
  `recipe_id` uuid NOT NULL,
  `version` int(11) NOT NULL,
  `document` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`document`)),
  `saved_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_recipe_past_household_id_recipe_id_version` (`household_id`,`recipe_id`,`version`),
  CONSTRAINT `fk_recipe_past_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_recipe_past_household_id_recipe_id` FOREIGN KEY (`household_id`, `recipe_id`) REFERENCES `recipe` (`household_id`, `id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `sign_in` (
  `token_hash` binary(32) NOT NULL,
  `user_id` uuid NOT NULL,
  `csrf_token` varchar(64) NOT NULL,
  `created_at` datetime(6) NOT NULL,
  `expires_at` datetime(6) NOT NULL,
  `device` varchar(80) NOT NULL DEFAULT '',
  `address` varchar(64) NOT NULL DEFAULT '',
  `seen_at` datetime(6) DEFAULT NULL,
  PRIMARY KEY (`token_hash`),
  KEY `fk_sign_in_user_id` (`user_id`),
  CONSTRAINT `fk_sign_in_user_id` FOREIGN KEY (`user_id`) REFERENCES `user_account` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `slot` (
  `eater_id` uuid NOT NULL,
  `name` varchar(40) NOT NULL,
  `at` time NOT NULL,
  `eaten_cold` tinyint(1) NOT NULL,
  `travels` tinyint(1) NOT NULL,
  `position` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `share_pct` double DEFAULT NULL,
  `no_reheat` tinyint(1) NOT NULL DEFAULT 0,
  `within_min` int(11) DEFAULT NULL,
  `is_archived` tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_slot_household_id_eater_id` (`household_id`,`eater_id`),
  CONSTRAINT `fk_slot_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_slot_household_id_eater_id` FOREIGN KEY (`household_id`, `eater_id`) REFERENCES `eater` (`household_id`, `id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `variant_change` (
  `recipe_id` uuid NOT NULL,
  `variant_id` uuid NOT NULL,
  `line_id` uuid NOT NULL,
  `food_id` uuid DEFAULT NULL,
  `amount_g` decimal(9,1) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_variant_change_household_id_food_id` (`household_id`,`food_id`),
  KEY `fk_variant_change_household_id_recipe_id` (`household_id`,`recipe_id`),
  CONSTRAINT `fk_variant_change_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_variant_change_household_id_food_id` FOREIGN KEY (`household_id`, `food_id`) REFERENCES `food` (`household_id`, `id`),
  CONSTRAINT `fk_variant_change_household_id_recipe_id` FOREIGN KEY (`household_id`, `recipe_id`) REFERENCES `recipe` (`household_id`, `id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `batch` (
  `week_id` uuid NOT NULL,
  `session_id` uuid NOT NULL,
  `recipe_id` uuid NOT NULL,
  `component_id` uuid NOT NULL,
  `factor` double NOT NULL,
  `planned_cooked_g` decimal(9,1) NOT NULL,
  `started_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_batch_household_id_session_id_component_id` (`household_id`,`session_id`,`component_id`),
  KEY `fk_batch_household_id_component_id` (`household_id`,`component_id`),
  KEY `fk_batch_household_id_recipe_id` (`household_id`,`recipe_id`),
  KEY `fk_batch_household_id_week_id` (`household_id`,`week_id`),
  CONSTRAINT `fk_batch_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_batch_household_id_component_id` FOREIGN KEY (`household_id`, `component_id`) REFERENCES `component` (`household_id`, `id`),
  CONSTRAINT `fk_batch_household_id_recipe_id` FOREIGN KEY (`household_id`, `recipe_id`) REFERENCES `recipe` (`household_id`, `id`),
  CONSTRAINT `fk_batch_household_id_session_id` FOREIGN KEY (`household_id`, `session_id`) REFERENCES `prep_session` (`household_id`, `id`),
  CONSTRAINT `fk_batch_household_id_week_id` FOREIGN KEY (`household_id`, `week_id`) REFERENCES `week` (`household_id`, `id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `ingredient_line` (
  `component_id` uuid NOT NULL,
  `food_id` uuid NOT NULL,
  `amount_g` decimal(9,1) NOT NULL,
  `measure` varchar(12) NOT NULL,
  `position` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `amount_text` varchar(60) DEFAULT NULL,
  `error_g` double DEFAULT NULL,
  `figures_version` int(11) NOT NULL DEFAULT 1,
  `keeps_figures` tinyint(1) NOT NULL DEFAULT 0,
  `uptake` double NOT NULL DEFAULT 1,
  `is_discarded` tinyint(1) NOT NULL DEFAULT 0,
  `use_at` varchar(12) NOT NULL DEFAULT '',
  `is_optional` tinyint(1) NOT NULL DEFAULT 0,
  `is_to_taste` tinyint(1) NOT NULL DEFAULT 0,
  `is_poured_off` tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_ingredient_line_household_id_component_id` (`household_id`,`component_id`),
  KEY `fk_ingredient_line_household_id_food_id` (`household_id`,`food_id`),
  CONSTRAINT `fk_ingredient_line_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_ingredient_line_household_id_component_id` FOREIGN KEY (`household_id`, `component_id`) REFERENCES `component` (`household_id`, `id`) ON DELETE CASCADE,
  CONSTRAINT `fk_ingredient_line_household_id_food_id` FOREIGN KEY (`household_id`, `food_id`) REFERENCES `food` (`household_id`, `id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `placement` (
  `week_id` uuid NOT NULL,
  `eater_id` uuid NOT NULL,
  `slot_id` uuid NOT NULL,
  `recipe_id` uuid NOT NULL,
  `day` date NOT NULL,
  `servings` decimal(10,6) NOT NULL,
  `live` int(11) DEFAULT NULL,
  `version` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `servings_before` decimal(10,6) DEFAULT NULL,
  `cooked_in` uuid DEFAULT NULL,
  `is_frozen` tinyint(1) NOT NULL DEFAULT 0,
  `is_pinned` tinyint(1) NOT NULL DEFAULT 0,
  `from_job` uuid DEFAULT NULL,
  `from_house` uuid DEFAULT NULL,
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_placement_household_id_eater_id_slot_id_day_live` (`household_id`,`eater_id`,`slot_id`,`day`,`live`),
  KEY `fk_placement_household_id_recipe_id` (`household_id`,`recipe_id`),
  KEY `fk_placement_household_id_slot_id` (`household_id`,`slot_id`),
  KEY `ix_placement_household_id_week_id_live` (`household_id`,`week_id`,`live`),
  CONSTRAINT `fk_placement_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_placement_household_id_eater_id` FOREIGN KEY (`household_id`, `eater_id`) REFERENCES `eater` (`household_id`, `id`),
  CONSTRAINT `fk_placement_household_id_recipe_id` FOREIGN KEY (`household_id`, `recipe_id`) REFERENCES `recipe` (`household_id`, `id`),
  CONSTRAINT `fk_placement_household_id_slot_id` FOREIGN KEY (`household_id`, `slot_id`) REFERENCES `slot` (`household_id`, `id`),
  CONSTRAINT `fk_placement_household_id_week_id` FOREIGN KEY (`household_id`, `week_id`) REFERENCES `week` (`household_id`, `id`),
  CONSTRAINT `ck_placement_live` CHECK (`live` = 1)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `batch_line` (
  `batch_id` uuid NOT NULL,
  `food_id` uuid NOT NULL,
  `planned_g` decimal(9,1) NOT NULL,
  `measure` varchar(12) NOT NULL,
  `position` int(11) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  `error_g` double DEFAULT NULL,
  `kept_version` int(11) DEFAULT NULL,
  `uptake` double NOT NULL DEFAULT 1,
  `is_discarded` tinyint(1) NOT NULL DEFAULT 0,
  `is_poured_off` tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (`household_id`,`id`),
  KEY `fk_batch_line_household_id_batch_id` (`household_id`,`batch_id`),
  KEY `fk_batch_line_household_id_food_id` (`household_id`,`food_id`),
  CONSTRAINT `fk_batch_line_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_batch_line_household_id_batch_id` FOREIGN KEY (`household_id`, `batch_id`) REFERENCES `batch` (`household_id`, `id`) ON DELETE CASCADE,
  CONSTRAINT `fk_batch_line_household_id_food_id` FOREIGN KEY (`household_id`, `food_id`) REFERENCES `food` (`household_id`, `id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `box` (
  `placement_id` uuid NOT NULL,
  `packed_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_box_household_id_placement_id` (`household_id`,`placement_id`),
  CONSTRAINT `fk_box_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_box_household_id_placement_id` FOREIGN KEY (`household_id`, `placement_id`) REFERENCES `placement` (`household_id`, `id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TABLE `weighing` (
  `seq` bigint(20) NOT NULL,
  `batch_id` uuid NOT NULL,
  `kind` varchar(12) NOT NULL,
  `batch_line_id` uuid DEFAULT NULL,
  `placement_id` uuid DEFAULT NULL,
  `gross_g` decimal(9,1) DEFAULT NULL,
  `tare_g` decimal(9,1) DEFAULT NULL,
  `net_g` decimal(9,1) DEFAULT NULL,
  `shortfall` varchar(12) DEFAULT NULL,
  `user_id` uuid DEFAULT NULL,
  `weighed_at` datetime(6) NOT NULL,
  `household_id` uuid NOT NULL,
  `id` uuid NOT NULL,
  PRIMARY KEY (`household_id`,`id`),
  UNIQUE KEY `uq_weighing_seq` (`seq`),
  KEY `fk_weighing_household_id_batch_line_id` (`household_id`,`batch_line_id`),
  KEY `fk_weighing_household_id_placement_id` (`household_id`,`placement_id`),
  KEY `fk_weighing_user_id` (`user_id`),
  KEY `ix_weighing_household_id_batch_id_seq` (`household_id`,`batch_id`,`seq`),
  CONSTRAINT `fk_weighing_household_id` FOREIGN KEY (`household_id`) REFERENCES `household` (`id`),
  CONSTRAINT `fk_weighing_household_id_batch_id` FOREIGN KEY (`household_id`, `batch_id`) REFERENCES `batch` (`household_id`, `id`),
  CONSTRAINT `fk_weighing_household_id_batch_line_id` FOREIGN KEY (`household_id`, `batch_line_id`) REFERENCES `batch_line` (`household_id`, `id`),
  CONSTRAINT `fk_weighing_household_id_placement_id` FOREIGN KEY (`household_id`, `placement_id`) REFERENCES `placement` (`household_id`, `id`),
  CONSTRAINT `fk_weighing_user_id` FOREIGN KEY (`user_id`) REFERENCES `user_account` (`id`),
  CONSTRAINT `ck_weighing_net` CHECK (`net_g` is null or `net_g` >= 0)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
;
CREATE TRIGGER `weighing_no_delete` BEFORE DELETE ON `weighing` FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'weighings are append-only'
;
CREATE TRIGGER `weighing_no_update` BEFORE UPDATE ON `weighing` FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'weighings are append-only'
