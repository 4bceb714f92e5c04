-- One name for one thing: who does the work of a team is a team member.
UPDATE "role_grant" SET "role" = 'teamMember' WHERE "role" = 'fulfiller';
