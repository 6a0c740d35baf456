from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("rollouts", "0015_bookings")]

    operations = [migrations.RenameField("Errand", "told", "work")]
