"""first tables"""

import sqlalchemy as sa
from alembic import op

revision = '0001'
down_revision = None


def upgrade() -> None:
    op.create_table('project',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('slug', sa.String(), nullable=False),
    sa.Column('name', sa.String(), nullable=False),
    sa.Column('layout', sa.JSON(), nullable=False),
    sa.Column('head_id', sa.Integer(), nullable=True),
    sa.Column('created', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['head_id'], ['revision.id'], name='fk_head', use_alter=True),
    sa.PrimaryKeyConstraint('id'),
    sa.UniqueConstraint('slug')
    )
    op.create_table('revision',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('project_id', sa.Integer(), nullable=False),
    sa.Column('number', sa.Integer(), nullable=False),
    sa.Column('parent_id', sa.Integer(), nullable=True),
    sa.Column('next_id', sa.Integer(), nullable=True),
    sa.Column('summary', sa.String(), nullable=False),
    sa.Column('name', sa.String(), nullable=True),
    sa.Column('tune', sa.JSON(), nullable=False),
    sa.Column('created', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['next_id'], ['revision.id'], ),
    sa.ForeignKeyConstraint(['parent_id'], ['revision.id'], ),
    sa.ForeignKeyConstraint(['project_id'], ['project.id'], ),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_index(op.f('ix_revision_project_id'), 'revision', ['project_id'], unique=False)
    op.create_table('target',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('project_id', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(), nullable=False),
    sa.Column('frequencies', sa.JSON(), nullable=False),
    sa.Column('levels', sa.JSON(), nullable=False),
    sa.ForeignKeyConstraint(['project_id'], ['project.id'], ),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_index(op.f('ix_target_project_id'), 'target', ['project_id'], unique=False)
    op.create_table('take',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('project_id', sa.Integer(), nullable=False),
    sa.Column('revision_id', sa.Integer(), nullable=False),
    sa.Column('channels', sa.JSON(), nullable=False),
    sa.Column('purpose', sa.String(), nullable=False),
    sa.Column('method', sa.String(), nullable=False),
    sa.Column('rate', sa.Integer(), nullable=False),
    sa.Column('timed', sa.Boolean(), nullable=False),
    sa.Column('level_db', sa.Double(), nullable=False),
    sa.Column('through', sa.JSON(), nullable=False),
    sa.Column('note', sa.String(), nullable=False),
    sa.Column('discarded', sa.Boolean(), nullable=False),
    sa.Column('created', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['project_id'], ['project.id'], ),
    sa.ForeignKeyConstraint(['revision_id'], ['revision.id'], ),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_index(op.f('ix_take_project_id'), 'take', ['project_id'], unique=False)
    op.create_table('array',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('take_id', sa.Integer(), nullable=False),
    sa.Column('role', sa.String(), nullable=False),
    sa.Column('data', sa.LargeBinary(), nullable=False),
    sa.ForeignKeyConstraint(['take_id'], ['take.id'], ),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_index(op.f('ix_array_take_id'), 'array', ['take_id'], unique=False)
