from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('bench', '0002_plans_have_an_app'),
        ('fits', '0008_proof'),
        ('plans', '0001_initial'),
        ('supply', '0001_initial'),
    ]

    operations = [
        # The tables stay: they are those of the other two apps now.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.DeleteModel(name='Worker'),
                migrations.DeleteModel(name='Joint'),
                migrations.DeleteModel(name='Work'),
                migrations.DeleteModel(name='PaperFit'),
                migrations.DeleteModel(name='PaperPlan'),
            ],
        ),
    ]
