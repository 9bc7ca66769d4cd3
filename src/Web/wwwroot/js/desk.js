// desk
