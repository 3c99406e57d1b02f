import django.core.serializers.json
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("records", "0009_rename_what"),
    ]

    operations = [
        migrations.CreateModel(
            name="FigureChange",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "holder",
                    models.CharField(choices=[("engine", "engine"), ("goal", "goal"), ("part", "part"), ("fit", "fit")], max_length=8),
                ),
                ("owner_id", models.PositiveBigIntegerField(help_text="of the engine, build, part or side")),
                ("key", models.CharField(max_length=40)),
                ("value", models.FloatField(blank=True, null=True)),
                ("spread", models.FloatField(default=0.0)),
                ("basis", models.CharField(blank=True, max_length=12)),
                ("typed", models.CharField(blank=True, max_length=80)),
                ("unit", models.CharField(blank=True, max_length=20)),
                ("at", models.DateTimeField()),
            ],
            options={
                "ordering": ["-at", "-pk"],
            },
        ),
        migrations.CreateModel(
            name="PlannedShim",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("size", models.FloatField()),
                ("key", models.CharField(blank=True, max_length=80)),
                ("source", models.CharField(max_length=16)),
                ("low", models.FloatField(help_text="least clearance it should leave")),
                ("high", models.FloatField(help_text="greatest clearance it should leave")),
            ],
        ),
        migrations.CreateModel(
            name="ShimPin",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "kind",
                    models.CharField(
                        choices=[("stays", "stays as it is"), ("only", "only this one"), ("never", "never this one")], max_length=8
                    ),
                ),
                ("key", models.CharField(blank=True, max_length=80)),
                ("at", models.DateTimeField(auto_now_add=True)),
            ],
            options={
                "ordering": ["pk"],
            },
        ),
        migrations.AlterModelOptions(
            name="journalentry",
            options={"ordering": ["-at", "-pk"]},
        ),
        migrations.AddField(
            model_name="engine",
            name="clearance_note",
            field=models.CharField(blank=True, help_text="what the manual says of measuring clearances", max_length=300),
        ),
        migrations.AddField(
            model_name="engine",
            name="firing_order",
            field=models.CharField(blank=True, help_text="1-3-4-2, or 1@0 2@180; empty for the usual one", max_length=60),
        ),
        migrations.AddField(
            model_name="engine",
            name="shim_shape",
            field=models.CharField(blank=True, help_text="of the shims it takes: 9.5 mm round", max_length=40),
        ),
        migrations.AddField(
            model_name="journalentry",
            name="build",
            field=models.ForeignKey(
                blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="entries", to="records.build"
            ),
        ),
        migrations.AddField(
            model_name="journalentry",
            name="data",
            field=models.JSONField(blank=True, default=list, encoder=django.core.serializers.json.DjangoJSONEncoder),
        ),
        migrations.AddField(
            model_name="journalentry",
            name="once",
            field=models.CharField(blank=True, max_length=32, null=True),
        ),
        migrations.AddField(
            model_name="journalentry",
            name="reversible",
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name="journalentry",
            name="undone_by",
            field=models.OneToOneField(
                blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="undoes", to="records.journalentry"
            ),
        ),
        migrations.AlterField(
            model_name="build",
            name="use",
            field=models.CharField(
                choices=[
                    ("trail", "trail"),
                    ("street", "street"),
                    ("road_race", "road race"),
                    ("drag", "drag"),
                    ("motocross", "motocross"),
                    ("endurance", "endurance"),
                    ("work", "work"),
                    ("rescue", "rescue"),
                ],
                default="street",
                max_length=12,
            ),
        ),
        migrations.AlterField(
            model_name="engine",
            name="adjuster",
            field=models.CharField(
                choices=[
                    ("shim_under", "shim under"),
                    ("shim_over", "shim over"),
                    ("shim_on_stem", "shim on stem"),
                    ("graded_bucket", "graded bucket"),
                    ("screw", "screw"),
                    ("lash_cap", "lash cap"),
                    ("stem_grind", "stem grind"),
                    ("hydraulic", "hydraulic"),
                ],
                max_length=16,
            ),
        ),
        migrations.AlterField(
            model_name="engine",
            name="follower",
            field=models.CharField(
                choices=[("bucket", "bucket"), ("finger", "finger"), ("rocker", "rocker"), ("tappet", "tappet")], max_length=12
            ),
        ),
        migrations.AlterField(
            model_name="engine",
            name="gear",
            field=models.CharField(
                choices=[("dohc", "dohc"), ("ohc", "ohc"), ("push_rod", "push rod"), ("side_valve", "side valve")], max_length=12
            ),
        ),
        migrations.AlterField(
            model_name="gapreading",
            name="gap",
            field=models.CharField(
                choices=[
                    ("piston_to_valve", "piston to valve"),
                    ("pocket_rim", "pocket rim"),
                    ("valve_to_valve", "valve to valve"),
                    ("valve_to_bore", "valve to bore"),
                    ("coil_bind", "coil bind"),
                    ("retainer_to_seal", "retainer to seal"),
                    ("follower_to_retainer", "follower to retainer"),
                    ("nested_springs", "nested springs"),
                    ("spring_pocket", "spring pocket"),
                    ("lobe_to_head", "lobe to head"),
                    ("valve_to_head", "valve to head"),
                ],
                max_length=24,
            ),
        ),
        migrations.AlterField(
            model_name="gapreading",
            name="way",
            field=models.CharField(
                choices=[("clay", "clay"), ("drop test", "drop test"), ("checking springs", "checking springs"), ("gauge", "gauge")],
                max_length=20,
            ),
        ),
        migrations.AlterField(
            model_name="journalentry",
            name="about",
            field=models.TextField(),
        ),
        migrations.AlterField(
            model_name="journalentry",
            name="after",
            field=models.TextField(blank=True),
        ),
        migrations.AlterField(
            model_name="journalentry",
            name="before",
            field=models.TextField(blank=True),
        ),
        migrations.AlterField(
            model_name="part",
            name="kind",
            field=models.CharField(
                choices=[
                    ("cam", "cam"),
                    ("valve", "valve"),
                    ("retainer", "retainer"),
                    ("keepers", "keepers"),
                    ("follower", "follower"),
                    ("shim", "shim"),
                    ("spring", "spring"),
                ],
                max_length=12,
            ),
        ),
        migrations.AddIndex(
            model_name="journalentry",
            index=models.Index(fields=["build", "by", "-at"], name="last_of_ones_own"),
        ),
        migrations.AddConstraint(
            model_name="build",
            constraint=models.CheckConstraint(
                condition=models.Q(("use__in", ["trail", "street", "road_race", "drag", "motocross", "endurance", "work", "rescue"])),
                name="build_use_is_known",
            ),
        ),
        migrations.AddConstraint(
            model_name="engine",
            constraint=models.CheckConstraint(
                condition=models.Q(("gear__in", ["dohc", "ohc", "push_rod", "side_valve"])), name="engine_gear_is_known"
            ),
        ),
        migrations.AddConstraint(
            model_name="engine",
            constraint=models.CheckConstraint(
                condition=models.Q(("follower__in", ["bucket", "finger", "rocker", "tappet"])), name="engine_follower_is_known"
            ),
        ),
        migrations.AddConstraint(
            model_name="engine",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    (
                        "adjuster__in",
                        ["shim_under", "shim_over", "shim_on_stem", "graded_bucket", "screw", "lash_cap", "stem_grind", "hydraulic"],
                    )
                ),
                name="engine_adjuster_is_known",
            ),
        ),
        migrations.AddConstraint(
            model_name="gapreading",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    (
                        "gap__in",
                        [
                            "piston_to_valve",
                            "pocket_rim",
                            "valve_to_valve",
                            "valve_to_bore",
                            "coil_bind",
                            "retainer_to_seal",
                            "follower_to_retainer",
                            "nested_springs",
                            "spring_pocket",
                            "lobe_to_head",
                            "valve_to_head",
                        ],
                    )
                ),
                name="gap_reading_gap_is_known",
            ),
        ),
        migrations.AddConstraint(
            model_name="gapreading",
            constraint=models.CheckConstraint(
                condition=models.Q(("way__in", ["clay", "drop test", "checking springs", "gauge"])), name="gap_reading_way_is_known"
            ),
        ),
        migrations.AddConstraint(
            model_name="journalentry",
            constraint=models.UniqueConstraint(fields=("workshop", "once"), name="one_entry_per_form_sent"),
        ),
        migrations.AddConstraint(
            model_name="part",
            constraint=models.CheckConstraint(
                condition=models.Q(("kind__in", ["cam", "valve", "retainer", "keepers", "follower", "shim", "spring"])),
                name="part_kind_is_known",
            ),
        ),
        migrations.AddField(
            model_name="figurechange",
            name="by",
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name="figurechange",
            name="workshop",
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="figure_changes", to="records.workshop"),
        ),
        migrations.AddField(
            model_name="plannedshim",
            name="position",
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="records.position"),
        ),
        migrations.AddField(
            model_name="plannedshim",
            name="session",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="planned_shims", to="records.clearancesession"
            ),
        ),
        migrations.AddField(
            model_name="shimpin",
            name="by",
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name="shimpin",
            name="position",
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="records.position"),
        ),
        migrations.AddField(
            model_name="shimpin",
            name="session",
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="shim_pins", to="records.clearancesession"),
        ),
        migrations.AddIndex(
            model_name="figurechange",
            index=models.Index(fields=["holder", "owner_id", "key", "-at"], name="history_of_a_figure"),
        ),
        migrations.AddConstraint(
            model_name="plannedshim",
            constraint=models.UniqueConstraint(fields=("session", "position"), name="one_planned_shim_per_valve"),
        ),
        migrations.AddConstraint(
            model_name="shimpin",
            constraint=models.UniqueConstraint(fields=("session", "position", "kind", "key"), name="one_pin_of_a_kind_and_shim"),
        ),
    ]
