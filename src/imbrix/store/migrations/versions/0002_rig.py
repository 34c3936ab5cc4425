"""what is known of a take, microphone corrections, small documents"""

import sqlalchemy as sa
from alembic import op

revision = '0002'
down_revision = '0001'


def upgrade() -> None:
    op.add_column('take', sa.Column('details', sa.JSON(), nullable=False, server_default='{}'))
    op.create_table('correction',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(), nullable=False),
    sa.Column('pointing', sa.String(), nullable=False),
    sa.Column('origin', sa.String(), nullable=False),
    sa.Column('frequencies', sa.JSON(), nullable=False),
    sa.Column('levels', sa.JSON(), nullable=False),
    sa.Column('degrees', sa.JSON(), nullable=True),
    sa.Column('sensitivity', sa.String(), nullable=False),
    sa.Column('created', sa.DateTime(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_table('document',
    sa.Column('key', sa.String(), nullable=False),
    sa.Column('value', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('key')
    )
