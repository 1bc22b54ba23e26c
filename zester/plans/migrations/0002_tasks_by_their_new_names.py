from django.db import migrations

# What waits in the queue is known by where its function stands.
MOVED = {
    'zester.fits.queue.work_task': 'zester.plans.queue.work_task',
    'zester.fits.order.joint_task': 'zester.supply.joint.joint_task',
}


def rename(apps, schema_editor):
    results = apps.get_model('django_tasks_database', 'DBTaskResult').objects
    for old, new in MOVED.items():
        results.filter(task_path=old).update(task_path=new)


class Migration(migrations.Migration):

    dependencies = [
        ('plans', '0001_initial'),
        ('fits', '0009_plans_and_supply_have_apps'),
        ('django_tasks_database', '0021_conditional_partial_index_ordering'),
    ]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop, elidable=True)]
