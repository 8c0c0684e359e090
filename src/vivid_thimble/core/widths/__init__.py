"""How wide kept film and waste are everywhere: walls, the width field, thin places, the survey."""
